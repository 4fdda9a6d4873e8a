"""Every figure, folded from the event stream."""
