"""A made-up illustrated world whose every part is known: picture, words, masks, depth."""
