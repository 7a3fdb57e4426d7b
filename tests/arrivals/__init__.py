"""Small files as offices send them, and what must be read, asked or refused."""
