"""Ramps: stops, interpolation after CSS Color 4 §12, how a ramp's lightness runs, and baking to exactly N colors."""
