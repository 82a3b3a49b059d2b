"""Addresses of the interface for programs."""

from django.urls import path

from web.api import pages
from web.api.views import api

urlpatterns = [
    path("", pages.page, name="programs"),
    path("tokens/", pages.token_make, name="token-make"),
    path("tokens/end/", pages.tokens_end, name="tokens-end"),
    path("tokens/<int:pk>/end/", pages.token_end, name="token-end"),
    path("v1/", api.urls),
]
