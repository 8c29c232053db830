"""The Waves desk."""

from mevrik.desktop.desks.waves.desk import WavesDesk

__all__ = ["WavesDesk"]
