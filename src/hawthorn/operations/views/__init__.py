"""What a page of the console or a command shows, made from everything below."""
