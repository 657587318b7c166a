"""From loads to nodal vectors, exactly, wherever the loads lie."""
