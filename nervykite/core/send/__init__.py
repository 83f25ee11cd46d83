"""Sending: encoders, and the pipeline that feeds them."""
