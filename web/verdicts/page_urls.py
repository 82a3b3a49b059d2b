"""Addresses of a setup's page: its form, its verdict, and both as files."""

from django.urls import path

from web.verdicts import by_hour, first, pages, saving

urlpatterns = [
    path("first/", first.first_rig, name="first-rig"),
    path("new/", pages.new, name="setup-new"),
    path("draft/drop/", pages.drop_draft, name="draft-drop"),
    path("preview/", pages.preview, name="setup-preview"),
    path("remedy/", pages.remedy, name="setup-remedy"),
    path("by-hour/", by_hour.by_hour, name="setup-by-hour"),
    path("save/", saving.save, name="setup-save"),
    path("<int:pk>/", pages.show, name="setup"),
    path("<int:pk>/result/", pages.result, name="setup-result"),
    path("<int:pk>/start.csv", pages.start_csv, name="setup-start-csv"),
]
