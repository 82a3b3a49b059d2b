"""Addresses of the reach."""

from django.urls import path

from web.reach import views

urlpatterns = [
    path("<int:pk>/", views.page, name="reach"),
    path("<int:pk>/job/<int:job>/", views.part, name="reach-job"),
    path("<int:pk>/variant/", views.variant, name="reach-variant"),
    path("<int:pk>/map.csv", views.map_csv, name="reach-csv"),
]
