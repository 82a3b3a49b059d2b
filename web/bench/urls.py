"""Addresses of the bench."""

from django.urls import path

from web.bench import views

urlpatterns = [
    path("<int:pk>/", views.page, name="bench"),
    path("<int:pk>/begin/", views.begin, name="bench-begin"),
    path("run/<int:pk>/", views.run, name="bench-run"),
    path("run/<int:pk>/press/", views.press, name="bench-press"),
    path("run/<int:pk>/rewind/", views.rewind, name="bench-rewind"),
    path("run/<int:pk>/file.<str:kind>", views.export, name="bench-export"),
]
