"""Models as scenes for a reader to turn: triangles with their surface's own normals, nodes, colours, prepared views."""
