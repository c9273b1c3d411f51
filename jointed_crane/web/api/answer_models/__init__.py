"""The answers of the API, as models: they describe what is answered, and nothing is checked by them."""
