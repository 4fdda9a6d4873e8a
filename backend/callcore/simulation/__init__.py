"""A set-up, people and a heap: days of a centre in seconds, by the code that runs it live."""
