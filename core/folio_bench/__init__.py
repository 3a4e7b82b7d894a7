"""Figures: speed and memory beside a floor measured in the same run. `./folio bench …`."""
