"""Lantern Row, an invented tea house on a canal: draws its pictures and fills a project."""
