"""Services: permission (`studio/access.py`), one transaction, a core call, a stored revision."""
