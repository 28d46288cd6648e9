"""Eurythm: from massing to a compared energy study.

The core (everything below `store`) knows nothing of HTTP, databases or screens.
"""

__version__ = "0.1.0"
