"""The demo: plates, a wing-beat sheet and a chart of “The Lantern Moth Atlas”, an invented book, drawn by code."""
