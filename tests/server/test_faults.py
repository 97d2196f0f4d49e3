"""Short ones of `./meldrin bench faults`: what breaks while it is played, and greedy neighbours."""

import multiprocessing
import unittest

from tools import neighbours
from tools.faults import Outcome, cluster, kills


class Broken(unittest.TestCase):
    slow = True

    def nothing_is_lost(self, found: Outcome) -> None:
        self.assertGreater(found.acknowledged, 5 * found.attempts)
        self.assertEqual(found.lost, 0)
        self.assertEqual(found.unsaved, 0, "in the end all of it is saved")
        self.assertGreater(found.came_back, 0)

    def test_server_workers_and_database_are_killed_while_it_is_played(self) -> None:
        self.nothing_is_lost(kills(5, players=6, seed=7))

    def test_a_cluster_loses_nodes_and_processes_and_its_majority(self) -> None:
        self.nothing_is_lost(cluster(players=20, rounds=3, pause_s=2.0))


class Neighbours(unittest.TestCase):
    slow = True

    def test_who_only_plays_does_not_notice(self) -> None:
        for name in ("unread", "floods"):
            with self.subTest(name):
                player, _ = neighbours.beside(name, lasts_s=2.0)
                self.assertEqual(player.connected, 1)
                self.assertGreater(len(player.acknowledged), 0)
                # in truth under half a second, which the benchmark holds; here only that it is not
                # held up, however slow the machine
                self.assertLess(player.longest_s, 20.0)
        self.assertEqual(multiprocessing.active_children(), [])
