"""What the model hears: words, where they count, the shapes and places of things."""
