"""Lookup tables: what fits a column, and reading whole files of rows."""
