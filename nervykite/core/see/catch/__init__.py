"""Finding the frames worth holding: what moves in a take, how crisp it is, where its movement peaks; cadence, ghosts.

In: a take's frames, small. Out: numbers a frame, frames with reasons, pictures to judge spacing by. See `watch`.
"""
