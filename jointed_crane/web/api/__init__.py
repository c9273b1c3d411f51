"""The API that the pages, and anyone on this machine, work through."""
