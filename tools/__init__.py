"""What builds and prepares Skalto."""
