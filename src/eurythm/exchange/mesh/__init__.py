"""Meshes: masses of OBJ, STL and glTF in, the energy model as glTF out."""
