"""How much is done at once, remembered and kept, long work that waits its turn, and whether work can be done."""
