"""Paints the world, trains the networks and exports the pack. Not installed with the app."""
