"""Hypothesis without a time limit for each example: a busy machine is no fault of the code's."""

from hypothesis import settings

settings.register_profile("calm", deadline=None)
settings.load_profile("calm")
