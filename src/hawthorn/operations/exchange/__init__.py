"""What goes out of a house and comes in: set-up as files, packages, receipts."""
