"""Work in a child of a worker: bounded in memory, ended with what asked for it, its words heard."""

from __future__ import annotations

import os
import resource
import select
import signal
from multiprocessing.connection import Connection
from pathlib import Path

from django.db import connection
from django.test import TransactionTestCase

from web.rigs.models import Rig
from web.storage.subprocesses import FAILED, TOO_LARGE, child_at

ROOM = 1 << 30


def alive(pid: int) -> bool:
    """Whether a process runs; one that ended and was not waited for does not."""
    stat = Path(f"/proc/{pid}/stat")
    return stat.exists() and stat.read_text().split()[2] != "Z"


def says_its_number(told: Connection) -> None:
    told.send(os.getpid())
    signal.pause()


def takes(told: Connection, size: int) -> None:
    told.send(len(bytearray(size)))


def says_its_limit(told: Connection) -> None:
    told.send(resource.getrlimit(resource.RLIMIT_AS)[0])


def counts_rigs(told: Connection) -> None:
    told.send(Rig.objects.count())


def ends_at_once(told: Connection) -> None:
    os._exit(7)


class Children(TransactionTestCase):
    def test_it_says_what_it_found(self) -> None:
        with child_at(takes, 1000, max_bytes=ROOM) as told:
            self.assertEqual(told.recv(), 1000)

    def test_it_has_so_much_memory_and_no_more(self) -> None:
        with child_at(says_its_limit, max_bytes=ROOM) as told:
            self.assertEqual(told.recv(), ROOM)
        with child_at(takes, 2 * ROOM, max_bytes=ROOM) as told:
            self.assertEqual(told.recv(), (FAILED, TOO_LARGE))

    def test_it_is_ended_with_the_block(self) -> None:
        with child_at(says_its_number, max_bytes=ROOM) as told:
            child = told.recv()
            self.assertTrue(alive(child))
            self.assertNotEqual(child, os.getpid())
        self.assertFalse(alive(child))

    def test_it_is_ended_with_a_block_that_fails(self) -> None:
        with (
            self.assertRaises(ZeroDivisionError),
            child_at(says_its_number, max_bytes=ROOM) as told,
        ):
            child = told.recv()
            raise ZeroDivisionError
        self.assertFalse(alive(child))

    def test_one_that_ends_without_a_word_is_heard_of(self) -> None:
        with child_at(ends_at_once, max_bytes=ROOM) as told:
            ready, _, _ = select.select([told], [], [], 30.0)
            self.assertTrue(ready)
            self.assertRaises(EOFError, told.recv)

    def test_it_opens_the_database_anew_and_leaves_ours_alone(self) -> None:
        ours = Rig.objects.count()
        with child_at(counts_rigs, max_bytes=ROOM) as told:
            self.assertEqual(told.recv(), ours)
        self.assertEqual(Rig.objects.count(), ours)
        connection.close()
