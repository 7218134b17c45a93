"""Passes painted on other machines. Nothing here is imported unless it is asked for."""
