"""Color: spaces, conversion, difference, gamut mapping, notations."""
