"""How plants grow: skeletons, limbs with their bark, shoots with their leaves, blades."""
