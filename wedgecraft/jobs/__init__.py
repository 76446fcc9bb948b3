"""Long computations as queued tasks in the same database, with progress; any number of workers may
serve them.
"""
