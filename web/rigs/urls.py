"""Addresses of the rigs."""

from django.urls import path

from web.rigs import plates, pooled, views

urlpatterns = [
    path("", views.index, name="rigs"),
    path("typical/", pooled.page, name="typicals"),
    path("typical/count/", pooled.count, name="typicals-count"),
    path("typical/iron-margin-typicals.json", pooled.as_json, name="typicals-json"),
    path("typical/iron-margin-typicals.parquet", pooled.as_parquet, name="typicals-parquet"),
    path("<int:pk>/", views.show, name="rig"),
    path("<int:pk>/edit/", views.edit, name="rig-edit"),
    path("<int:pk>/detail/", views.edit_detail, name="rig-detail"),
    path("<int:pk>/load/", views.drawer, name="rig-load"),
    path("<int:pk>/add/", views.add, name="rig-add"),
    path("<int:pk>/remove/", views.remove, name="rig-remove"),
    path("<int:pk>/undo/", views.undo, name="rig-undo"),
    path("<int:pk>/circuit/", views.circuit, name="rig-circuit"),
    path("<int:pk>/lockout/", views.lockout, name="rig-lockout"),
    path("<int:pk>/12-v/", views.twelve_volt, name="rig-12-v"),
    path("<int:pk>/room/", views.room, name="rig-room"),
    path("<int:pk>/paste/", views.paste, name="rig-paste"),
    path("<int:pk>/plate/", plates.plate, name="rig-plate"),
    path("<int:pk>/plate/photo/", plates.plate_photo, name="rig-plate-photo"),
    path("<int:pk>/loads.csv", views.export_csv, name="rig-csv"),
    path("<int:pk>/import/", views.import_csv, name="rig-import"),
]
