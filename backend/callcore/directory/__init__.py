"""Finding people by the keys of a telephone: a surname spelled, an extension dialled."""
