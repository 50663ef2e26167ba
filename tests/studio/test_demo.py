"""The demo shots: there once, as the demo artist left them, their plates drawn by a worker."""

import json
from pathlib import Path
from unittest import mock

from django.core.management import call_command
from django.test import TestCase
from procrastinate.contrib.django.models import ProcrastinateJob
from procrastinate.exceptions import JobAborted

from handful.studio.demo.management.commands import load_demo
from handful.studio.demo.tasks import shoot_plate
from handful.studio.plates.models import Plate
from handful.studio.renders.tasks import HandBack
from handful.studio.shots.models import Shot
from tests.studio.base import use_temporary_folders


class Demo(TestCase):
    def test_loaded_once(self) -> None:
        """A second time changes nothing; a shot that was put aside does not come back."""
        call_command("load_demo")
        names = {json.loads(path.read_text())["name"] for path in load_demo.RECIPES.glob("*.json")}
        self.assertEqual(set(Shot.objects.values_list("name", flat=True)), names)
        Shot.objects.filter(name="Mast strike").update(name="Mine")
        call_command("load_demo")
        self.assertEqual(Shot.objects.count(), len(names))
        jobs = ProcrastinateJob.objects.filter(task_name=shoot_plate.name)
        self.assertEqual(jobs.count(), Plate.objects.count())

    def test_plates_are_drawn_by_a_worker(self) -> None:
        """After renders; a worker that is asked to stop hands the rest back, and what is missing is drawn then, nothing
        twice."""
        root = Path(use_temporary_folders(self))
        call_command("load_demo")
        plate = Plate.objects.get(name="loft-dust")
        folder = root / "media" / plate.folder
        self.assertFalse(folder.exists())
        job = ProcrastinateJob.objects.get(args__scene="loft-dust")
        self.assertEqual((job.queue_name, job.priority), ("renders", -1))
        small: dict[str, float] = {
            "width": 64,
            "height": 36,
            "rate": 25,
            "first": 1001,
            "last": 1004,
        }
        asked = iter((False, True))
        with self.assertRaises(JobAborted) as handed_back:
            shoot_plate(
                mock.Mock(should_abort=lambda: next(asked)), scene="loft-dust", canvas=small
            )
        self.assertEqual(len(list(folder.iterdir())), 2)
        again = HandBack().get_retry_decision(exception=handed_back.exception, job=mock.Mock())
        self.assertIsNotNone(again)
        self.assertIsNotNone(shoot_plate.retry_strategy)
        goes_on = mock.Mock(should_abort=lambda: False)
        shoot_plate(goes_on, scene="loft-dust", canvas=small)
        files = sorted(folder.iterdir())
        self.assertEqual(
            [path.name for path in files], [f"loft-dust.{n}.jpg" for n in range(1001, 1005)]
        )
        files[1].unlink()
        times = {path: path.stat().st_mtime_ns for path in folder.iterdir()}
        shoot_plate(goes_on, scene="loft-dust", canvas=small)
        self.assertTrue(files[1].exists())
        self.assertEqual({path: path.stat().st_mtime_ns for path in times}, times)
