"""Addresses of the drills."""

from django.urls import path

from web.drills import views

urlpatterns = [
    path("", views.page, name="drills"),
    path("answer/", views.answer, name="drills-answer"),
    path("keep/", views.store, name="drills-keep"),
    path("exam/", views.begin_exam, name="drills-begin-exam"),
    path("exam/<str:exam>/", views.exam, name="drills-exam"),
    path("exam/<str:exam>/certificate/", views.certificate, name="drills-certificate"),
]
