"""Who people and programs are, and what they may."""
