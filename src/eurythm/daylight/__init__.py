"""Daylight in rooms: what sensors see of sky, sun and surroundings through glass, straight and by the room's own surfaces.

Illuminance is linear in the sky. Its diffuse parts have constant coefficients at a sensor, the sun's are hourly. What zones'
surfaces see of one another is kept by their shape. The method stands in docs/method.md, "Daylight".
"""
