"""Kernels that several rooms use."""
