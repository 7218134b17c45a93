"""What the hand does on the sheet."""
