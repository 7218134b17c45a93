"""What the artist laid down, as values."""
