"""The rules of the job and all its computation; knows neither web nor database."""
