"""Words typed by a person: options in, messages and an exit code out."""
