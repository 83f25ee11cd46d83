"""Where things of a scene are in each frame of a shot: the camera's path, and that of a patch."""
