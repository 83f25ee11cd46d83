"""Kernels: what numba compiles, loaded when pixels are wanted and not before."""
