"""What ./run does. Standard library only: nothing is installed yet when it begins."""
