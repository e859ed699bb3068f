"""What the ground is made of: ordered materials, each where it belongs."""
