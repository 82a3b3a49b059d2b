"""Addresses of the bench."""

from django.urls import path, re_path

from web.bench import views

urlpatterns = [
    path("<int:pk>/", views.page, name="bench"),
    path("<int:pk>/begin/", views.begin, name="bench-begin"),
    path("run/<int:pk>/", views.run, name="bench-run"),
    path("run/<int:pk>/press/", views.press, name="bench-press"),
    path("run/<int:pk>/rewind/", views.rewind, name="bench-rewind"),
    re_path(r"^run/(?P<pk>\d+)/file\.(?P<kind>csv|json)$", views.export, name="bench-export"),
]
