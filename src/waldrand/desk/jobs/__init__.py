"""What menus, keys and buttons set going."""
