"""What colleagues say, have to do, and are told."""
