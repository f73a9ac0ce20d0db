"""Numeric kernels that several packages use."""
