"""Pixels in, pixels out."""
