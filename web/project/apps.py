"""The site itself: its commands."""

from django.apps import AppConfig


class ProjectConfig(AppConfig):
    name = "web.project"
    label = "project"
