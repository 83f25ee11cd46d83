"""How the camera moved."""
