"""Climate years: reading EPW, stand-in climates, the sun's path, statistics."""
