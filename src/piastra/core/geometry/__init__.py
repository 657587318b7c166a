"""Plan geometry on plain coordinates: arcs, partition, clipping, panels."""
