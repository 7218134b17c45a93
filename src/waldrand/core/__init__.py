"""What is computed: numbers only, nothing of windows, files or networks."""
