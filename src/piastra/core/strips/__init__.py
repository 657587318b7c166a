"""Design strips: axes from the supports, stations along them, forces integrated across their widths."""
