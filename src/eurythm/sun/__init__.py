"""What sees the sun and the sky: visibility, shading, radiation on faces."""
