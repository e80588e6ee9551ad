"""What may stand where, who decides, and what goes out when."""
