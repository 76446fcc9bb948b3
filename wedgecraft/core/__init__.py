"""The job's rules and computation. No interface, no database, no files.

Units inside: mm, N, N·mm, MPa, s, kg, radians. What crosses a boundary is a frozen Pydantic model
(``model.Document``); inner loops use dataclasses and numpy arrays.
"""
