"""The documents as data: place, library, scheme and the project that holds them.

Nothing here computes; nothing here imports the rest of the package.
"""
