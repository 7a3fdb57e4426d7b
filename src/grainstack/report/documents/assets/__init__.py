"""The style and the script of pages."""
