"""What is stored: palettes and their revisions, what refers to what, cards, recipes, and what goes for good."""
