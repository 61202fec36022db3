"""Looking for colors in any text."""
