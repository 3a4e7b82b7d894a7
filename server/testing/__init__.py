"""What the server's tests share."""
