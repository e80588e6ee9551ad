"""What readers see, where, and before it is out."""
