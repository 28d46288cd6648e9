"""What elements are made of: U-values, heat capacity, glazing, and the shipped library of generic build-ups."""
