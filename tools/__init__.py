"""What `./run` is made of; the standard library only, as it runs before anything is installed."""
