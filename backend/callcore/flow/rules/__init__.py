"""The rules of the checker, by what they are about."""
