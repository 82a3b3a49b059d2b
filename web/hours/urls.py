"""Addresses of the hours."""

from django.urls import path

from web.hours import views

urlpatterns = [
    path("<int:pk>/", views.page, name="hours"),
    path("<int:pk>/prices/", views.prices, name="hours-prices"),
    path("<int:pk>/series.csv", views.series, name="hours-series"),
]
