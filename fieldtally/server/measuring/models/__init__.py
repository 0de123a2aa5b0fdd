"""What is kept of pictures and of what was measured in them."""

from fieldtally.server.measuring.models.gauge import GaugedReading, GaugeRecipe, GaugeRun, Gauging
from fieldtally.server.measuring.models.photo import Photo, PhotoFile
from fieldtally.server.measuring.models.tray import TrayPhoto

__all__ = ["GaugeRecipe", "GaugeRun", "GaugedReading", "Gauging", "Photo", "PhotoFile", "TrayPhoto"]
