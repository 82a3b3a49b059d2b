"""Addresses of the setups an owner keeps."""

from django.urls import path

from web.setups import views

urlpatterns = [
    path("", views.index, name="setups"),
    path("import/", views.take_in, name="setup-import"),
    path("choose/", views.chooser, name="setup-chooser"),
    path("drawn/", views.drawn, name="setups-drawn"),
    path("compare/", views.compare, name="setup-compare"),
    path("<int:pk>/chip/", views.chip, name="setup-chip"),
    path("<int:pk>/export/", views.export, name="setup-export"),
]
