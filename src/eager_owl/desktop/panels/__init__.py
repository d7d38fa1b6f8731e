"""What stands beside the desk, one at a time. Each is an entry in `desktop.entries`."""
