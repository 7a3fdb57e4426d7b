"""Tables and charts as they are handed over: files, pages and documents."""
