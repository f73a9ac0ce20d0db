"""Copper Sieve: derive, convert, pack, name, deliver and verify PBR texture sets."""

__version__ = "0.2.0"
