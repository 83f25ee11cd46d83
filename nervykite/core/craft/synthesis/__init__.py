"""Synthesis of sounds."""
