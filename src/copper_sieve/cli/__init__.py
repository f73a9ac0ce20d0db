"""The commands behind ./sieve; the headless ones need neither server nor database."""
