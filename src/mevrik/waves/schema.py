"""The tables of a run record, an SQLite file.

Changes lie in blocks, one row a block: `first` and `last` time, `count`, whether any value in it is unknown, and the packed
columns, compressed with zstd. A reader finds the blocks it needs by signal and time; a zoomed-out picture needs no more than the row.

The columns (`record_pack` in engine/kernel/record.c): eight bytes say how they are stored, then follow time differences, deltas, sites and the
planes of the values, little end first. Bytes 0 to 2: how many bytes a number of the first three columns takes, 0: all numbers are the one
that stands there in eight bytes (the first difference is not used: `first` has that time). Bytes 4 to 7: what a plane is, all 0, all 1 or, for
2, stored, a value behind the other.

`watches` says what wakes a process: events of the bits from `low` on of a signal, by its name in the unit or, with a leading "/", its path.

The parts of a signal are a list in JSON: name, lowest bit, width, signed, its own lsb and msb, labels, and its parts in turn.
"""

VERSION = 4  # of the tables and the layout of blocks

SCHEMA = f"""
PRAGMA user_version = {VERSION};
CREATE TABLE IF NOT EXISTS meta (key TEXT PRIMARY KEY, value TEXT);
CREATE TABLE IF NOT EXISTS signals (
    id INTEGER PRIMARY KEY, width INTEGER, bytes INTEGER, planes INTEGER, elements INTEGER, signed INTEGER, kind TEXT,
    lsb INTEGER, msb INTEGER, labels TEXT, parts TEXT, initial BLOB, recorded INTEGER);
CREATE TABLE IF NOT EXISTS names (
    path TEXT PRIMARY KEY, scope INTEGER, name TEXT, signal INTEGER, port TEXT, file TEXT, line INTEGER);
CREATE TABLE IF NOT EXISTS scopes (
    id INTEGER PRIMARY KEY, path TEXT, parent INTEGER, unit TEXT, module TEXT, file TEXT, line INTEGER, from_file TEXT, from_line INTEGER);
CREATE TABLE IF NOT EXISTS sites (
    id INTEGER PRIMARY KEY, file TEXT, line INTEGER, col INTEGER, text TEXT, process TEXT, unit TEXT, kind TEXT);
CREATE TABLE IF NOT EXISTS reads (site INTEGER, name TEXT, role TEXT);
CREATE TABLE IF NOT EXISTS watches (
    unit TEXT, name TEXT, edge TEXT, low INTEGER, width INTEGER, file TEXT, line INTEGER, text TEXT);
CREATE INDEX IF NOT EXISTS watches_of ON watches (name);
CREATE TABLE IF NOT EXISTS blocks (
    signal INTEGER, first INTEGER, last INTEGER, count INTEGER, unknown INTEGER, data BLOB);
CREATE INDEX IF NOT EXISTS block_of ON blocks (signal, first);
CREATE TABLE IF NOT EXISTS messages (severity TEXT, time INTEGER, file TEXT, line INTEGER, text TEXT);
"""
