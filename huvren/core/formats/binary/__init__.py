"""Palettes as bytes with fields at fixed places."""
