"""From the light of a scene to pictures."""
