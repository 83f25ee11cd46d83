"""A small film set: a ray-marched beach, a posable runner, and the camera that films them.

`shots` lists what can be filmed; everything below it is deterministic for a given frame number.
Lengths are metres, times seconds, angles degrees, colours linear light unless a name says otherwise.
The world's axes: x to the right, y up, z away from the camera.
"""
