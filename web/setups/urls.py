"""Addresses of the setups."""

from django.urls import path

from web.setups import views

urlpatterns = [
    path("", views.index, name="setups"),
    path("new/", views.new, name="setup-new"),
    path("preview/", views.preview, name="setup-preview"),
    path("remedy/", views.remedy, name="setup-remedy"),
    path("save/", views.save, name="setup-save"),
    path("import/", views.take_in, name="setup-import"),
    path("<int:pk>/", views.show, name="setup"),
    path("compare/", views.compare, name="setup-compare"),
    path("<int:pk>/chip/", views.chip, name="setup-chip"),
    path("<int:pk>/export/", views.export, name="setup-export"),
    path("<int:pk>/result/", views.result, name="setup-result"),
    path("<int:pk>/start.csv", views.start_csv, name="setup-start-csv"),
]
