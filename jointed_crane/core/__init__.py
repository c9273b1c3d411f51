"""The rules and the computation: NumPy, SciPy and shapely only, no web, no database, no files."""
