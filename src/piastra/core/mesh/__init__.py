"""From the floor to a conforming mesh of quadrilaterals and triangles."""
