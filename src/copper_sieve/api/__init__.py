"""HTTP API of the services: one router per noun, typed requests and responses."""
