"""Engine, sessions and migrations."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from pydantic_core import from_json, to_json
from sqlalchemy import create_engine, text
from sqlalchemy.orm import Session, sessionmaker


class Database:
    """One database. Connections are checked before use, so that it comes back by itself after the
    server was away.
    """

    def __init__(self, url: str) -> None:
        self.url = url
        self.engine = create_engine(
            url.replace("postgresql://", "postgresql+psycopg://", 1),
            pool_pre_ping=True,
            pool_size=8,
            max_overflow=12,
            pool_timeout=5,
            connect_args={"connect_timeout": 3},
            # Results of hundreds of stations: read and written several times as fast as by json.
            json_serializer=lambda value: to_json(value).decode(),
            json_deserializer=from_json,
        )
        self._sessions = sessionmaker(self.engine, expire_on_commit=False)

    @contextmanager
    def session(self) -> Iterator[Session]:
        """A transaction: committed at the end, rolled back on any exception."""
        with self._sessions.begin() as session:
            yield session

    def answers(self) -> None:
        """Raise the driver's error unless the database answers and has its tables."""
        with self.engine.connect() as connection:
            connection.execute(text("SELECT 1 FROM person LIMIT 1"))

    def upgrade(self) -> None:
        """Bring the tables to the newest version."""
        from alembic import command  # only who prepares the database needs it
        from alembic.config import Config

        config = Config()
        config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
        with self.engine.begin() as connection:
            config.attributes["connection"] = connection
            command.upgrade(config, "head")

    def close(self) -> None:
        self.engine.dispose()
