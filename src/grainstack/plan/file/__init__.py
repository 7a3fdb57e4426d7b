"""The plan file: read, checked, added to, and described."""
