"""The columns beside the sheet and the tray below it."""
