"""The web interface of the services: one router per noun, typed requests and answers."""
