"""Addresses of the reach."""

from django.urls import path

from web.reach import more, views

urlpatterns = [
    path("<int:pk>/", views.page, name="reach"),
    path("<int:pk>/sizes/", views.sizes, name="reach-sizes"),
    path("<int:pk>/job/<int:job>/", views.part, name="reach-job"),
    path("<int:pk>/places/", more.places, name="reach-places"),
    path("clients/", more.clients, name="reach-clients"),
    path("clients/begin/", more.begin_clients, name="reach-begin-clients"),
    path("clients/<int:job>/", more.sweep, name="reach-sweep"),
    path("clients/<int:job>/stop/", more.cancel_sweep, name="reach-sweep-cancel"),
    path("clients/<int:job>/sweep.csv", more.sweep_csv, name="reach-sweep-csv"),
    path("<int:pk>/variant/", views.variant, name="reach-variant"),
    path("<int:pk>/map.csv", views.map_csv, name="reach-csv"),
]
