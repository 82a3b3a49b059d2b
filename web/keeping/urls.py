"""Addresses of what all kept things share."""

from django.urls import path

from web.keeping import parcels, views

urlpatterns = [
    path("<str:kind>/<int:pk>/delete/", views.delete, name="delete"),
    path("<str:kind>/<int:pk>/restore/", views.restore, name="restore"),
    path("<str:kind>/<int:pk>/archive/", views.archive, name="archive"),
    path("<str:kind>/<int:pk>/duplicate/", views.duplicate, name="duplicate"),
    path("<str:kind>/<int:pk>/history/", views.history, name="history"),
    path("<str:kind>/<int:pk>/history/<int:change>/", views.go_back, name="go-back"),
    path("account.zip", parcels.export, name="account-export"),
    path("account/", parcels.take_in, name="account-import"),
    path("parcel/<int:pk>/", parcels.parcel, name="parcel"),
    path("parcel/<int:pk>/account.zip", parcels.packed, name="parcel-zip"),
]
