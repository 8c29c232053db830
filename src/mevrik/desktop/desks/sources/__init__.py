"""The Sources desk."""

from mevrik.desktop.desks.sources.desk import SourcesDesk

__all__ = ["SourcesDesk"]
