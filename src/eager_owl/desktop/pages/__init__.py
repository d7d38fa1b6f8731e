"""What takes the place of the desk, one at a time. Each is an entry in `desktop.entries`."""
