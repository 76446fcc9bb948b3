"""Running it all: the state folder, the web processes, the workers, the supervisor that looks after
them, and copies of the data.
"""
