"""Taking in what was measured elsewhere: lists, drawings, meshes."""
