"""What is worked out for a bench: pictures, reductions one by one and in batches, ramps, checks."""
