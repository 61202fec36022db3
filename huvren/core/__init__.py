"""Computation without interface: bytes and arrays in, bytes and arrays out."""
