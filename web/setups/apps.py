"""What this layer makes known to those below it when the site starts."""

from django.apps import AppConfig


class SetupsConfig(AppConfig):
    name = "web.setups"

    def ready(self) -> None:
        """Register what is kept here and what follows a change below."""
        from web.setups import drafts, repository
        from web.setups.archive import SETUPS
        from web.storage import purging
        from web.storage.actions import tell_of
        from web.storage.kinds import register

        register(SETUPS)
        purging.ALSO.append(drafts.purge)
        for kind in ("rig", "supply"):
            purging.BEFORE.setdefault(kind, []).append(repository.take_home)
        tell_of("rig", lambda rig: repository.stale_setups(rig=rig))
        tell_of("supply", lambda supply: repository.stale_setups(supply=supply))
