"""Every address of the site."""

from django.urls import include, path

from web.accounts.access import readers_may
from web.design import queued, views
from web.setups.stations import route
from web.verdicts import pages

urlpatterns = [
    path("", pages.home, name="home"),
    path("health", views.health, name="health"),
    path("ready", views.ready, name="ready"),
    path("sw.js", views.service_worker, name="service-worker"),
    path("manifest.webmanifest", views.manifest, name="manifest"),
    path("offline/", views.offline, name="offline"),
    path("paper/", readers_may(views.paper), name="paper"),
    path("account/who/", queued.who, name="who"),
    path("account/", include("web.accounts.urls")),
    path("api/", include("web.api.urls")),
    path("board/", include("web.board.urls")),
    path("rigs/", include("web.rigs.urls")),
    path("supplies/", include("web.supplies.urls")),
    path("clients/", include("web.clients.urls")),
    path("setups/", include("web.setups.urls")),
    path("setups/", include("web.verdicts.page_urls")),
    path("now/", include("web.now.urls")),
    path("meter/", include("web.meter.urls")),
    path("drills/", include("web.drills.urls")),
    path("verdicts/", include("web.verdicts.urls")),
    path("kept/", include("web.storage.urls")),
    *(path(f"{station.key}/", include(station.urls)) for station in route() if station.urls),
]
handler404 = "web.design.views.not_found"
handler500 = "web.design.views.broken"
handler400 = "web.design.views.bad_request"
handler403 = "web.design.views.forbidden"
