"""What is installed with the app: our own pack, the demo, the icon."""
