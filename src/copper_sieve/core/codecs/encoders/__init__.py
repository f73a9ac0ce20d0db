"""Encoders of this program: PNG, TGA, GPU blocks and their containers."""
