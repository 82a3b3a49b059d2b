"""Addresses of the clients."""

from django.urls import path

from web.clients import views

urlpatterns = [
    path("", views.index, name="clients"),
    path("<int:pk>/", views.show, name="client"),
    path("<int:pk>/save/", views.save, name="client-save"),
    path("<int:pk>/visit/", views.visit, name="client-visit"),
    path("<int:pk>/photo/", views.photo, name="client-photo"),
    path("<int:pk>/photo/<int:photo>/", views.photo_raw, name="client-photo-raw"),
    path("<int:pk>/rig/", views.rig, name="client-rig"),
]
