"""What the player looks at: the phrase rail, the desk, the neck."""
