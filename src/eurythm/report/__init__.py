"""Tables and files made of outcomes."""
