"""What a pack's finder tells of a picture."""
