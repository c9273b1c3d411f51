"""Documentation generated from the code: the edits, and the API as an OpenAPI description."""
