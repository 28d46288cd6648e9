"""IFC: reading models (2x3, 4, 4x3), writing spaces with their boundaries."""
