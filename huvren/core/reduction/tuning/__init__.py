"""Colors chosen for the dither: what is seen from afar is the mixture, so the mixture is what the colors are chosen for."""
