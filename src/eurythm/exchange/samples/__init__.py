"""Our own sample files: the library around its court, as an architect's programs would hand it on, clutter and faults included."""
