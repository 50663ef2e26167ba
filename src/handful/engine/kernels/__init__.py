"""Compiled loops. They take arrays and plain numbers, release the interpreter lock, and say no
more about the product than their arithmetic needs."""
