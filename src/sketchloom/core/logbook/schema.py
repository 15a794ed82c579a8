"""The tables of the logbook, by version; an older file is brought up step by step."""

import sqlite3

__all__ = ["APPLICATION", "STEPS", "VERSION", "brought_up", "is_ours"]

APPLICATION = 0x4C4F4F4D
"""What tells the file from other databases."""

_CUTS = """CREATE TABLE cuts (
    number INTEGER PRIMARY KEY AUTOINCREMENT,
    at INTEGER NOT NULL,
    job TEXT NOT NULL,
    what TEXT NOT NULL,
    stock TEXT NOT NULL,
    cutter TEXT NOT NULL,
    preset TEXT NOT NULL,
    planned REAL NOT NULL,
    taken REAL,
    result TEXT NOT NULL,
    note TEXT NOT NULL,
    used REAL NOT NULL,
    roll INTEGER NOT NULL,
    price REAL NOT NULL,
    recipe BLOB NOT NULL,
    photo BLOB NOT NULL
)"""
_ON_HAND = """CREATE TABLE on_hand (
    stock TEXT PRIMARY KEY COLLATE NOCASE,
    amount REAL NOT NULL,
    least REAL NOT NULL
)"""
STEPS: tuple[tuple[str, ...], ...] = (
    (_CUTS, "CREATE INDEX cuts_at ON cuts (at)"),
    (
        _ON_HAND,
        "ALTER TABLE cuts ADD COLUMN removed INTEGER NOT NULL DEFAULT 0",
        "CREATE INDEX cuts_stock ON cuts (stock, cutter)",
    ),
)
"""What leads from each version to the next."""
VERSION = len(STEPS)


def brought_up(connection: sqlite3.Connection) -> None:
    """Lead a file of an older version to that of today, in one transaction; a new one has none of the tables."""
    connection.execute("BEGIN IMMEDIATE")
    try:
        version = connection.execute("PRAGMA user_version").fetchone()[0]  # another program may just have done it
        for step in STEPS[version:]:
            for statement in step:
                connection.execute(statement)
        connection.execute(f"PRAGMA application_id = {APPLICATION}")
        connection.execute(f"PRAGMA user_version = {VERSION}")
        connection.execute("COMMIT")
    except BaseException:
        connection.execute("ROLLBACK")
        raise


def is_ours(connection: sqlite3.Connection) -> bool:
    """Whether the tables of a file of today's version are those it should have, and nothing else is in it."""
    blank = sqlite3.connect(":memory:", isolation_level=None)
    try:
        brought_up(blank)
        return _layout(connection) == _layout(blank)
    finally:
        blank.close()


def _layout(connection: sqlite3.Connection) -> list[tuple[str, ...]]:
    rows = connection.execute("SELECT type, name, tbl_name, coalesce(sql, '') FROM sqlite_schema ORDER BY name")
    return rows.fetchmany(100)
