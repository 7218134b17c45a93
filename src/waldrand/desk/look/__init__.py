"""Colours, and pictures for the screen."""
