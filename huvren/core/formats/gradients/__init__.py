"""Ramps as files: stops, pieces and tables."""
