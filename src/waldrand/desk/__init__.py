"""The window: everything Qt."""
