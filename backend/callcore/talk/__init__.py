"""What two or more people do with a call: hold, ask a colleague, put through, join, record."""
