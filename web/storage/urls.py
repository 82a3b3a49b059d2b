"""Addresses of what all kept things share."""

from django.urls import path

from web.storage import transfers, views

urlpatterns = [
    path("<str:kind>/<int:pk>/delete/", views.delete, name="delete"),
    path("<str:kind>/<int:pk>/restore/", views.restore, name="restore"),
    path("<str:kind>/<int:pk>/archive/", views.archive, name="archive"),
    path("<str:kind>/<int:pk>/duplicate/", views.duplicate, name="duplicate"),
    path("<str:kind>/<int:pk>/history/", views.history, name="history"),
    path("<str:kind>/<int:pk>/history/<int:change>/", views.go_back, name="go-back"),
    path("account.zip", transfers.export, name="account-export"),
    path("account/", transfers.take_in, name="account-import"),
    path("transfer/<int:pk>/", transfers.transfer, name="transfer"),
    path("transfer/<int:pk>/account.zip", transfers.packed, name="transfer-zip"),
]
