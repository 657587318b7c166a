"""A second opinion on what columns take: tributary areas and equivalent frames."""
