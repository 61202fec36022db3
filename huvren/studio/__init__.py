"""The Django app: models, services (one transaction each), the API."""
