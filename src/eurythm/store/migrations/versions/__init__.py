"""The migrations, oldest first."""
