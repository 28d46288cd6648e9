"""From volumes to storeys, zones, faces and openings.

Lengths are metres in the drawing's axes: x to the drawing's east, y to its north, z up. Plan work is done with Shapely;
everything that leaves this package is rounded to a micrometre, so that the same form gives the same figures whichever
way it was turned.
"""
