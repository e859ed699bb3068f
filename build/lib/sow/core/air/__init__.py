"""Sun, air, clouds and haze: one light, computed once, for all that shows a scene."""
