"""What every act and view runs in."""
