"""Ramps as code."""
