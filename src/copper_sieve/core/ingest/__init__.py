"""From a file to a picture whose map is known: unpack, recognize, take in."""
