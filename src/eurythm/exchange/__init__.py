"""Readers and writers of open formats for place, library and scheme."""
