"""PostgreSQL behind SQLAlchemy.

``models`` the tables · ``database`` engine and migrations · ``jobs``, ``people`` what is asked of
them · ``cluster`` our own server.
"""
