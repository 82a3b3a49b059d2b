"""Addresses of a setup's meter."""

from django.urls import path

from web.meter import views

urlpatterns = [
    path("<int:pk>/", views.page, name="meter"),
    path("<int:pk>/keep/", views.store, name="meter-keep"),
    path("<int:pk>/drop/", views.drop, name="meter-drop"),
    path("<int:pk>/readings.json", views.readings, name="meter-readings"),
    path("<int:pk>/stream/", views.stream, name="meter-stream"),
]
