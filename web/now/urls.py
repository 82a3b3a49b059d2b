"""Addresses of what is on now."""

from django.urls import path

from web.now import views

urlpatterns = [
    path("", views.home, name="now-home"),
    path("<int:pk>/", views.page, name="now"),
    path("<int:pk>/look/", views.look, name="now-look"),
    path("<int:pk>/put/", views.put, name="now-put"),
    path("<int:pk>/table/", views.table, name="now-table"),
]
