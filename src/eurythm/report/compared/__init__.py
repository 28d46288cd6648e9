"""The report of a comparison: `content` says what is in it, `pictures` draws, `paper`, `web` and `sheets` set it."""
