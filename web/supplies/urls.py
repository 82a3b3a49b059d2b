"""Addresses of the supplies."""

from django.urls import path

from web.supplies import views

urlpatterns = [
    path("", views.index, name="supplies"),
    path("<int:pk>/", views.show, name="supply"),
    path("<int:pk>/preview/", views.preview, name="supply-preview"),
    path("<int:pk>/hours/", views.use_hours, name="supply-hours"),
    path("<int:pk>/plate/", views.plate, name="supply-plate"),
    path("<int:pk>/save/", views.save, name="supply-save"),
]
