"""Waldrand: place elements on a sheet, then inpaint and composite chosen areas where you want them."""

__version__ = "0.1.0"
