"""Where the queue and its workers write down what they tell one another: small values under keys, in SQLite or Redis."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from skalto.core.errors import InputError


class Board:
    """Values under keys, and the messages of huey beside them. All of it can be read and written by every process."""

    def __init__(self, data: Path | None, redis: str) -> None:
        """:param data: the folder of the SQLite file, where no Redis address is given.

        :raises InputError: when Redis does not answer.
        """
        # with all clients of Redis, which a command of the command line has no use for
        from huey import PriorityRedisHuey, SqliteHuey

        self.redis = bool(redis)
        if redis:
            self.huey: Any = PriorityRedisHuey("skalto", url=redis, results=False)
            try:
                self.huey.storage.conn.ping()
            except Exception as error:
                # the library's own words name address and reason
                raise InputError(f"Redis does not answer ({error}): start it, or mend SKALTO_REDIS.") from None
        else:
            assert data is not None
            data.mkdir(parents=True, exist_ok=True)
            self.huey = SqliteHuey("skalto", filename=str(data / "queue.db"), results=False, fsync=False)
        self._kept = self.huey.storage

    def get(self, key: str) -> bytes | None:
        value = self._kept.peek_data(key)
        return bytes(value) if isinstance(value, bytes | memoryview) else None

    def put(self, key: str, value: bytes) -> None:
        self._kept.put_data(key, value)

    def first(self, key: str, value: bytes) -> bool:
        """Put a value where there is none; whether it was this one that came first."""
        return bool(self._kept.put_if_empty(key, value))

    def drop(self, *keys: str) -> None:
        for key in keys:
            self._kept.pop_data(key)

    def has(self, key: str) -> bool:
        return bool(self._kept.has_data_for_key(key))

    def keys(self, prefix: str) -> list[str]:
        """All keys that begin with *prefix*, without it."""
        if self.redis:
            names = [name.decode() for name in self._kept.conn.hkeys(self._kept.result_key)]
            names = [name for name in names if name.startswith(prefix)]
        else:
            # between the prefix and its last possible continuation: by the index
            rows = self._kept.sql(
                "select key from kv where queue = ? and key >= ? and key < ?",
                (self._kept.name, prefix, f"{prefix}\U0010ffff"),
                results=True,
            )
            names = [name for (name,) in rows]
        return sorted({name.removeprefix(prefix) for name in names})

    def waiting(self) -> int:
        """How many messages nobody has taken yet."""
        return int(self._kept.queue_size())

    def first_keys(self, limit: int) -> list[str]:
        """The keys of the pieces of work that nobody has taken yet, the next one first: so many of them at most."""
        tasks = (self.huey.deserialize_task(message) for message in self._kept.enqueued_items(limit))
        return [str(task.args[0]) for task in tasks if task.args]

    def flush(self) -> None:
        self.huey.flush()
