"""The routes, one module a subject."""
