"""A thin server around the core: routes, events, and the built front end."""
