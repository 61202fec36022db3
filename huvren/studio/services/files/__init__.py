"""What goes in and out: imports, deliveries, archives."""
