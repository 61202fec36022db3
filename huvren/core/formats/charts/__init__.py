"""Settings of chart libraries."""
