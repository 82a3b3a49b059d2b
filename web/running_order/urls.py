"""Addresses of the running order."""

from django.urls import path

from web.running_order import views

urlpatterns = [
    path("<int:pk>/", views.page, name="order"),
    path("<int:pk>/job/<int:job>/", views.order, name="order-job"),
    path("<int:pk>/reading/", views.reading, name="order-reading"),
    path("<int:pk>/again/", views.replan, name="order-again"),
    path("<int:pk>/day/", views.plan_day, name="order-day"),
    path("<int:pk>/day/job/<int:job>/", views.day_job, name="order-day-job"),
    path("<int:pk>/day.csv", views.day_csv, name="order-day-csv"),
    path("<int:pk>/day.ics", views.day_ics, name="order-day-ics"),
    path("<int:pk>/card-<str:size>.pdf", views.card, name="order-card"),
]
