"""The tables of a run record, an SQLite file.

Changes lie in blocks, one row a block: `first` and `last` time, `count`, whether any value in it is unknown, and the packed
columns (time differences, deltas, sites, values), compressed with zstd. A reader finds the blocks it needs by signal and
time; a zoomed-out picture needs no more than the row.
"""

SCHEMA = """
CREATE TABLE IF NOT EXISTS meta (key TEXT PRIMARY KEY, value TEXT);
CREATE TABLE IF NOT EXISTS signals (
    id INTEGER PRIMARY KEY, width INTEGER, bytes INTEGER, planes INTEGER, elements INTEGER, signed INTEGER, kind TEXT,
    lsb INTEGER, msb INTEGER, labels TEXT, initial BLOB, recorded INTEGER);
CREATE TABLE IF NOT EXISTS names (
    path TEXT PRIMARY KEY, scope INTEGER, name TEXT, signal INTEGER, port TEXT, file TEXT, line INTEGER);
CREATE TABLE IF NOT EXISTS scopes (
    id INTEGER PRIMARY KEY, path TEXT, parent INTEGER, unit TEXT, module TEXT, file TEXT, line INTEGER, from_file TEXT, from_line INTEGER);
CREATE TABLE IF NOT EXISTS sites (
    id INTEGER PRIMARY KEY, file TEXT, line INTEGER, col INTEGER, text TEXT, process TEXT, unit TEXT, kind TEXT);
CREATE TABLE IF NOT EXISTS reads (site INTEGER, name TEXT, role TEXT);
CREATE TABLE IF NOT EXISTS blocks (
    signal INTEGER, first INTEGER, last INTEGER, count INTEGER, unknown INTEGER, data BLOB);
CREATE INDEX IF NOT EXISTS block_of ON blocks (signal, first);
CREATE TABLE IF NOT EXISTS messages (severity TEXT, time INTEGER, file TEXT, line INTEGER, text TEXT);
"""
