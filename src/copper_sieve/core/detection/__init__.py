"""What a picture is: told by its name and by its values, every answer with a reason."""
