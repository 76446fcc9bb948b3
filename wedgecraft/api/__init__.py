"""The service: thin blueprints over store and jobs, errors as problem details, sign-in, the built
front end.

``app`` puts it together · ``documents`` what only the service speaks · ``problems`` errors ·
``access`` who may do what · ``session``, ``jobs_api``, ``people_api``, ``service_api`` the
addresses · ``edit`` one field of a job changed.
"""
