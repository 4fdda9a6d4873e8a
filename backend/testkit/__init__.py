"""What the tests of several apps share. Product code never imports it."""
