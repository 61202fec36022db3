"""App configuration."""

from django.apps import AppConfig


class StudioConfig(AppConfig):
    name = "huvren.studio"
    label = "studio"
