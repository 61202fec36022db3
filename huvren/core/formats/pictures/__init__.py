"""Pictures: indexed ones, sheets and strips of squares, color tables."""
