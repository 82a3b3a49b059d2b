"""Addresses of the interface for programs."""

from django.contrib.auth.decorators import login_not_required
from django.urls import path

from web.api import pages
from web.api.views import api

ADDRESSES, APP, SPACE = api.urls
for address in ADDRESSES:  # programs show a token instead; the interface asks for it itself
    if address.callback is not None:
        login_not_required(address.callback)

urlpatterns = [
    path("", pages.page, name="programs"),
    path("tokens/", pages.token_make, name="token-make"),
    path("tokens/end/", pages.tokens_end, name="tokens-end"),
    path("tokens/<int:pk>/end/", pages.token_end, name="token-end"),
    path("v1/", (ADDRESSES, APP, SPACE)),
]
