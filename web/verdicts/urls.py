"""Addresses of remedies, what decides, reports and shared links."""

from django.urls import path

from web.verdicts import panel, views

urlpatterns = [
    path("search/<str:kind>/", views.search, name="search"),
    path("job/<int:pk>/", views.poll, name="job"),
    path("left/", views.left, name="jobs-left"),
    path("job/<int:pk>/cancel/", views.cancel, name="job-cancel"),
    path("job/<int:pk>/take/<int:number>/", views.take, name="job-take"),
    path("<int:pk>/report.pdf", views.report, name="report"),
    path("<int:pk>/report/", views.report_for, name="report-for"),
    path("<int:pk>/panel/", panel.page, name="panel"),
    path("<int:pk>/panel.pdf", panel.printed, name="panel-pdf"),
    path("<int:pk>/panel.svg", panel.drawing, name="panel-svg"),
    path("<int:pk>/shares/", views.shares, name="shares"),
    path("<int:pk>/share/", views.share, name="share"),
    path("link/<int:pk>/back/", views.unshare, name="unshare"),
    path("s/<str:token>/", views.shared, name="shared"),
    path("s/<str:token>/report.pdf", views.shared_report, name="shared-report"),
]
