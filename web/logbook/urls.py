"""Addresses of the log."""

from django.urls import path

from web.logbook import views

urlpatterns = [
    path("<int:pk>/", views.page, name="log"),
    path("<int:pk>/add/", views.add, name="log-add"),
    path("<int:pk>/capture/", views.capture, name="log-capture"),
    path("<int:pk>/correct/", views.correct, name="log-correct"),
    path("<int:pk>/file/", views.export, name="log-export"),
    path("<int:pk>/take-in/", views.take_in, name="log-take-in"),
    path("<int:pk>/<int:entry>/drop/", views.drop, name="log-drop"),
]
