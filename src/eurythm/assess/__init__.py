"""The outcome of a year: end uses, peaks, comfort, carbon, cost."""
