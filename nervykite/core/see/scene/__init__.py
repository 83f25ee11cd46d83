"""The scene of a shot: how its frames lie on each other, what is behind the subject, the camera's path."""
