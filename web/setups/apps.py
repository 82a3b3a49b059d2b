"""What this floor makes known to those below it when the site starts."""

from django.apps import AppConfig


class SetupsConfig(AppConfig):
    name = "web.setups"

    def ready(self) -> None:
        """Register what is kept here and what follows a change below."""
        from web.keeping import purging
        from web.keeping.actions import tell_of
        from web.keeping.kinds import register
        from web.setups import drafts, stored
        from web.setups.archive import SETUPS

        register(SETUPS)
        purging.ALSO.append(drafts.purge)
        for kind in ("rig", "supply"):
            purging.BEFORE.setdefault(kind, []).append(stored.take_home)
        tell_of("rig", lambda rig: stored.stale_setups(rig=rig))
        tell_of("supply", lambda supply: stored.stale_setups(supply=supply))
