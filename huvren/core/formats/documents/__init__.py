"""Documents of office programs."""
