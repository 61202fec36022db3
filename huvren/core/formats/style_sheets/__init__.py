"""Style sheets: custom properties, values that are worked out, gradients."""
