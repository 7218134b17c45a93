"""Noise levels, the way down them, and seeded noise."""
