"""Lantern Row, a fictional tea house on a canal: draws its pictures and fills a project."""
