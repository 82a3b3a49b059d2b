"""The address of the Board."""

from django.urls import path

from web.board import views

urlpatterns = [path("", views.board, name="board"), path("cells/", views.cells, name="board-cells")]
