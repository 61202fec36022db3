"""Palettes as lines of text, tables and structured text."""
