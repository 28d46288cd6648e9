"""From demand to the meter: systems, hot water, photovoltaics, energy by end use and carrier."""
