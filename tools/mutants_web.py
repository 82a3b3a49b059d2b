"""Whether breaking a rule of who may what, and of what is kept, is noticed by the web's tests:
``python tools/mutants_web.py [WORD …]``; part of ``./test mutants``.

Each row breaks one rule in a copy of the tree; the tests named beside it run until one fails, and
where none does, all of the web's (but with ``--near``: a first look). With words only rows run
whose rule has one of them. What survives is listed, and the exit code is 1.
"""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
import tempfile
from pathlib import Path
from typing import NamedTuple

ROOT = Path(__file__).resolve().parents[1]
sys.path.insert(0, str(ROOT))

from tools.constants import BROKEN  # noqa: E402
from tools.database import throwaway  # noqa: E402
from tools.run_tests import DJANGO_ENV  # noqa: E402

NEAR = "--near"
LEFT_OUT = (".git", ".venv", "node_modules", "var", "build")


class Broken(NamedTuple):
    """A rule and how it is broken: the module, its words, the words put for them, and the tests
    that should notice, by their modules.
    """

    rule: str
    module: str
    words: str
    broken: str
    tests: str


ROWS = (
    # who may what
    Broken("an inactive account has no members", "accounts/access.py",
           "membership is None or not membership.account.is_active", "membership is None",
           "test_members"),
    Broken("a member of one account is none of another", "accounts/access.py",
           "filter(account=account_id, member=user.pk)", "filter(account=account_id)",
           "test_members test_inventory"),
    Broken("a reader changes nothing", "accounts/access.py",
           "return self.role in (OWNER, EDITOR)", "return True", "test_members"),
    Broken("an action asks whose account it is", "accounts/access.py",
           "actor.account.pk != account_id or not actor.may_change", "not actor.may_change",
           "test_members"),
    Broken("an action asks whether one may", "accounts/access.py",
           "actor.account.pk != account_id or not actor.may_change",
           "actor.account.pk != account_id", "test_members"),
    Broken("the door refuses readers", "accounts/middleware.py",
           "actor is None or actor.may_change", "True or actor is None or actor.may_change",
           "test_members"),
    Broken("what is typed stays where one is signed out", "accounts/middleware.py",
           "request.method not in SAFE:\n", "False:\n", "test_inventory test_setups"),
    Broken("a part is answered in its place where one is signed out", "accounts/middleware.py",
           'sent_on is not None and "HX-Request"', 'False and "HX-Request"', "test_inventory"),
    Broken("members are the owner's matter", "accounts/members.py",
           "access.role != OWNER or is_demo", "is_demo", "test_members"),
    Broken("the demo has no members", "accounts/members.py",
           "access.role != OWNER or is_demo(access.account)", "access.role != OWNER",
           "test_members"),
    Broken("a link is good once", "accounts/members.py",
           "used_at=None, made_at__gt=since", "made_at__gt=since", "test_members"),
    Broken("a link is good for a week", "accounts/members.py",
           "used_at=None, made_at__gt=since", "used_at=None", "test_members"),
    Broken("a week is a week", "accounts/members.py", "timedelta(days=7)", "timedelta(days=11)",
           "test_members"),
    Broken("a forwarded letter makes nobody a member", "accounts/members.py",
           "if not _same_address(signed_in(request), held.mail):", "if False:", "test_members"),
    Broken("nobody is a member of their own account", "accounts/members.py",
           "held is None or held.account == request.user", "held is None", "test_members"),
    Broken("a member of another account is not changed", "accounts/members.py",
           "get_object_or_404(Membership, pk=pk, account=account)",
           "get_object_or_404(Membership, pk=pk)", "test_members"),
    Broken("another account's invitation is not taken back", "accounts/members.py",
           "get_object_or_404(Invitation, pk=pk, account=_owned(request))",
           "get_object_or_404(Invitation, pk=pk)", "test_members"),
    Broken("nobody else leaves for a member", "accounts/members.py",
           "get_object_or_404(Membership, pk=pk, member=request.user.pk)",
           "get_object_or_404(Membership, pk=pk)", "test_members"),
    Broken("one works in an account one is in", "accounts/members.py",
           "if pk != request.user.pk and not known:", "if False:", "test_members"),
    Broken("members and invitations are bounded", "accounts/members.py",
           "if many and not fault:", "if False:", "test_members"),
    Broken("a second factor ends with a code of it", "accounts/own.py",
           "not user_has_device(user) or match_token(user, code) is None",
           "not user_has_device(user)", "test_own_account"),
    Broken("a second factor is on once it was shown", "accounts/own.py",
           "if not device.verify_token(code):", "if False:", "test_own_account"),
    Broken("a second factor signs the others out", "accounts/own.py",
           'ended = sessions.end(user, None, request.session.session_key or "")', "ended = 0",
           "test_own_account"),
    Broken("the address takes the password", "accounts/own.py",
           'if not user.check_password(request.POST.get("password", "")[:200]):\n        fault',
           "if False:\n        fault", "test_own_account"),
    Broken("an account is deleted with its password", "accounts/own.py",
           'if not user.check_password(request.POST.get("password", "")[:200]):\n        return',
           "if False:\n        return", "test_own_account"),
    Broken("an account is deleted with its second factor", "accounts/own.py",
           "user_has_device(user) and match_token", "False and match_token", "test_own_account"),
    Broken("a new password signs the others out", "accounts/own.py",
           'sessions.end(user, None, self.request.session.session_key or "")\n        sessions',
           "sessions", "test_own_account"),
    Broken("a reset signs every browser out", "accounts/own.py",
           'sessions.end(self.user, None, "")', "pass", "test_own_account"),
    Broken("the demo's account is nobody's to change", "accounts/own.py",
           "if is_demo(request.user):", "if False:", "test_own_account"),
    Broken("a session of somebody else is not ended", "accounts/sessions.py",
           "SignIn.objects.filter(user=user).exclude", "SignIn.objects.exclude",
           "test_own_account"),
    Broken("the second factor is asked for", "accounts/forms.py",
           "if match_token(user, code) is None:", "if False:", "test_own_account"),
    Broken("wrong codes are slowed", "accounts/forms.py", "if _slowed(user):", "if False:",
           "test_own_account"),
    Broken("a try too many is refused", "accounts/limits.py", ".tries <= maximum",
           ".tries <= maximum + 1", "test_operations"),
    Broken("a stretch begins anew", "accounts/limits.py",
           "IF(began = VALUES(began), tries + 1, 1)", "tries + 1", "test_operations"),
    Broken("the nearest proxy's word counts", "accounts/limits.py", "said[-hops]", "said[0]",
           "test_operations"),
    Broken("a secret is kept as its hash", "accounts/models.py",
           "return hashlib.sha256(secret.encode()).hexdigest()", "return secret[:64]",
           "test_api test_members"),
    Broken("a token ends", "api/models.py", ", expires_at__gt=timezone.now()", "", "test_api"),
    Broken("a token ends with its account", "api/models.py", ", owner__is_active=True", "",
           "test_api"),
    Broken("a reading token reads", "api/wire.py", "OWNER if held.scope == WRITE else READER",
           "OWNER", "test_api"),
    Broken("nobody else ends a token", "api/pages.py",
           "get_object_or_404(Token, pk=pk, owner=request.user.pk)",
           "get_object_or_404(Token, pk=pk)", "test_api test_inventory"),
    # what is kept
    Broken("things are their owner's", "storage/models.py", "filter(owner=user, deleted_at=None)",
           "filter(deleted_at=None)", "test_inventory"),
    Broken("what is deleted is gone", "storage/models.py", "filter(owner=user, deleted_at=None)",
           "filter(owner=user)", "test_inventory test_storage"),
    Broken("there is a most of each", "storage/actions.py",
           "if model.objects.of(owner).count() >= model.maximum:", "if False:", "test_storage"),
    Broken("a change is of the version that was read", "storage/actions.py",
           "filter(pk=item.pk, version=version, deleted_at=None)",
           "filter(pk=item.pk, deleted_at=None)", "test_storage test_setups"),
    Broken("what is deleted is not changed", "storage/actions.py",
           "filter(pk=item.pk, version=version, deleted_at=None)",
           "filter(pk=item.pk, version=version)", "test_storage test_inventory"),
    Broken("changes are noted", "storage/actions.py",
           "        _note(fresh, action, said)\n", "", "test_storage"),
    Broken("a listener is told", "storage/actions.py", "                listener(fresh)\n",
           "                pass\n", "test_storage"),
    Broken("a history is bounded", "storage/actions.py", "STORED_CHANGES : STORED_CHANGES + 50",
           "10**6 : 10**6 + 50", "test_inventory test_storage"),
    Broken("a history is its owner's", "storage/actions.py",
           "filter(kind=item.kind, item=item.pk, owner_id=item.owner_id)",
           "filter(kind=item.kind, owner_id=item.owner_id)", "test_storage"),
    Broken("what is offered to be taken back is one's own", "storage/views.py",
           "model.objects.filter(owner=account_of(request), pk=number_of(pk))",
           "model.objects.filter(pk=number_of(pk))", "test_storage"),
    Broken("what is restored is one's own", "storage/views.py",
           "model.objects.filter(owner=account_of(request))\n", "model.objects.all()\n",
           "test_inventory"),
    Broken("one goes back to a change of the same thing", "storage/views.py",
           "pk=change, kind=kind, item=pk, owner=account_of(request)",
           "pk=change, owner=account_of(request)", "test_inventory test_storage"),
    Broken("an archive is its owner's", "storage/transfers.py",
           "get_object_or_404(TransferJob, pk=pk, owner=account_of(request)))",
           "get_object_or_404(TransferJob, pk=pk))", "test_transfers"),
    Broken("an archive's file is its owner's", "storage/transfers.py",
           "pk=pk, owner=account_of(request), way=TransferJob.OUT", "pk=pk, way=TransferJob.OUT",
           "test_transfers"),
    Broken("an archive is of whoever is still a member", "storage/transfers.py",
           "if actor is None:\n        return FAILED", "if False:\n        return FAILED",
           "test_transfers"),
    Broken("an archive another turn has taken over leaves nothing", "storage/transfers.py",
           "                raise Overtaken\n", "                pass\n", "test_transfers"),
    Broken("archives are rationed", "storage/transfers.py",
           "            raise TooOften\n", "            pass\n", "test_transfers"),
    Broken("an archive is taken in whole or not", "storage/account.py",
           "        if faults:\n            raise SetupError(faults)", "        pass",
           "test_account_zip"),
    Broken("an archive's entry is bounded", "storage/account.py",
           "if len(raw) > LARGEST_ENTRY:", "if False:", "test_account_zip"),
    Broken("an archive's bytes are bounded", "storage/account.py", "if len(raw) > LARGEST_ZIP:",
           "if False:", "test_account_zip test_transfers"),
    Broken("an archive's directory is bounded before it is opened", "storage/account.py",
           "    if large_directory(raw):\n        raise", "    if False:\n        raise",
           "test_account_zip"),
    Broken("an archive unpacks to a bounded size", "storage/account.py",
           " or unpacked(file) > LARGEST_WHOLE", "", "test_account_zip"),
    Broken("two entries with one number are refused", "storage/account.py",
           "if int(digits) in found[folder]:", "if False:", "test_account_zip"),
    Broken("a key is its sender's", "storage/once.py", "(said, sender, request", "(said, request",
           "test_once"),
    Broken("a key with other content is another request", "storage/once.py",
           ", *_sent(request))", ")", "test_once"),
    Broken("what failed may be sent again", "storage/once.py", "response.status_code >= 400 or ",
           "", "test_once"),
    Broken("what a page says is not kept", "storage/once.py",
           'tells = "Location" in response or whole', "tells = True", "test_once"),
    Broken("what a server went down with is done again", "storage/once.py",
           "held.made_at < timezone.now() - LOST", "False", "test_once"),
    Broken("what was taken back is not purged", "storage/purging.py",
           "filter(pk=item.pk, deleted_at__lt=since)", "filter(pk=item.pk)", "test_storage"),
    Broken("what is deleted stays for thirty days", "storage/purging.py", "STORED_DAYS = 30",
           "STORED_DAYS = 20", "test_storage"),
    Broken("sessions that ended go", "storage/purging.py",
           "    Session.objects.filter(expire_date__lt=now).delete()\n", "",
           "test_storage"),
    Broken("a history leads back to its beginning", "storage/past.py",
           "        state_after(rows[-1])\n", "        pass\n", "test_storage"),
    Broken("what only one changed is taken from them", "storage/merging.py",
           "return yours if mine else theirs", "return yours", "test_storage"),
)  # fmt: skip


def noticed(copy: Path, env: dict[str, str], row: Broken) -> bool:
    """Whether a test fails on the copy with one rule broken."""
    file = copy / "web" / row.module
    stored = file.read_text(encoding="utf-8")
    if row.words not in stored:
        sys.exit(f"{row.module} has no “{row.words}” any more: renew the row")
    file.write_text(stored.replace(row.words, row.broken), encoding="utf-8")
    near = [f"tests.web.{name}" for name in row.tests.split()]
    try:
        return fails(copy, env, near) or (NEAR not in sys.argv and fails(copy, env, ["tests/web"]))
    finally:
        file.write_text(stored, encoding="utf-8")


def fails(copy: Path, env: dict[str, str], tests: list[str], *, tells: bool = False) -> bool:
    """Whether one of these tests fails on the copy; it ``tells`` what it printed last if so."""
    command = [
        sys.executable,
        "manage.py",
        "test",
        "--keepdb",
        "--noinput",
        "--failfast",
        "-t",
        ".",
    ]
    env = env | {"PYTHONPATH": str(copy), BROKEN: "1"}
    done = subprocess.run(
        [*command, *tests], cwd=copy, env=env, capture_output=True, text=True, check=False
    )
    if tells and done.returncode:
        print(done.stderr[-3000:], file=sys.stderr)
    return done.returncode != 0


def main() -> int:
    """Break the rules; 1 if any survives."""
    words = [word for word in sys.argv[1:] if word != NEAR]
    requested = [row for row in ROWS if not words or any(word in row.rule for word in words)]
    alive = 0
    with tempfile.TemporaryDirectory() as folder, throwaway(**DJANGO_ENV) as env:
        copy = Path(folder) / "tree"
        shutil.copytree(ROOT, copy, ignore=shutil.ignore_patterns(*LEFT_OUT))
        for folder_of_tools in (".venv", "node_modules"):
            (copy / folder_of_tools).symlink_to(ROOT / folder_of_tools)
        env = os.environ | env | {"IRONMARGIN_SUITE": "mutants"}
        near = sorted({f"tests.web.{n}" for row in requested for n in row.tests.split()})
        if fails(copy, env, near, tells=True):
            sys.exit("the tests fail as they are: mend them first")
        for row in requested:
            found = noticed(copy, env, row)
            alive += not found
            print(f"{'noticed' if found else 'SURVIVES'}: {row.rule}", flush=True)
    print(f"{len(requested)} rules broken, {alive} unnoticed")
    return 1 if alive else 0


if __name__ == "__main__":
    sys.exit(main())
