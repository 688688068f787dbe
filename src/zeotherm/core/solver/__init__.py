"""Mathematics: cells, faces and streams. It knows nothing of printers."""
