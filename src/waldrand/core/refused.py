"""The one kind of error that is the artist's to mend."""

from __future__ import annotations


class Refused(ValueError):
    """Something that cannot be done as it was asked for, in a sentence for the artist, who is shown exactly that. Every other error
    is a mistake of ours."""
