"""Opening hours: a weekly plan, its exceptions, closures by hand, and the answer for any moment."""
