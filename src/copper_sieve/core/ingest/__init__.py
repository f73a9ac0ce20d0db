"""From a file to a picture of a known map type: unpack, detect, import."""
