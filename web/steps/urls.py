"""Addresses of the step lists."""

from django.urls import path

from web.steps import views

urlpatterns = [
    path("<int:pk>/", views.page, name="steps"),
    path("<int:pk>/begin/", views.begin, name="steps-begin"),
    path("<int:pk>/upkeep.ics", views.calendar, name="steps-calendar"),
    path("<int:pk>/<slug:purpose>.pdf", views.blank, name="steps-blank"),
    path("list/<int:pk>/", views.show, name="steps-list"),
    path("list/<int:pk>/go/", views.go, name="steps-go"),
    path("list/<int:pk>/print/", views.printed, name="steps-print"),
]
