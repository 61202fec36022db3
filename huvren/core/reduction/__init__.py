"""Reduction: a picture becomes a short, indexed palette and an index map."""
