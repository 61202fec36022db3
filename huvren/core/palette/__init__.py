"""Palettes as immutable values, and the operations on them."""
