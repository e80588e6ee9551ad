"""What goes out of a house and comes in, as values: differences, packages, receipts."""
