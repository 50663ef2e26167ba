"""Renders: ordered, worked off, cancelled, failed and tried again."""

import io
import zipfile
from datetime import timedelta
from pathlib import Path
from typing import Any
from unittest import mock

import OpenEXR
import psycopg
from django.db import connection
from django.test import TestCase
from django.test.utils import CaptureQueriesContext
from django.utils import timezone
from procrastinate.contrib.django.models import ProcrastinateJob

from handful.engine import Recipe, render_frame
from handful.engine.files import WriteError, read_picture
from handful.studio.renders import working
from handful.studio.renders.api import archive_name
from handful.studio.renders.models import Render
from handful.studio.renders.service import queue_orphans
from handful.studio.renders.tasks import render_frames
from handful.studio.renders.working import Busy, Interrupted, work_off
from tests.studio.base import (
    bending_recipe,
    client_of,
    lay_red_plate,
    other_session,
    person,
    plated_recipe,
    shot_of,
    small_recipe,
    use_temporary_folders,
)


def _streamed(response: Any) -> bytes:
    return b"".join(response.streaming_content)


class Rendering(TestCase):
    def setUp(self) -> None:
        self.root = use_temporary_folders(self)
        self.ada = person("Ada")
        self.shot = shot_of(self.ada)
        self.client_ada = client_of(self.ada)

    def _order(self, **changes: object) -> Render:
        body = {"shot": str(self.shot.id), "first": 2, "last": 5} | changes
        status, answer = self.client_ada.call("POST", "/renders", body)
        self.assertEqual(status, 201, answer)
        return Render.objects.get(id=answer["id"])

    def _work(self, render: Render, stop_after: int | None = None) -> Render:
        asked = iter(range(10_000))
        work_off(render.id, lambda: stop_after is not None and next(asked) >= stop_after)
        render.refresh_from_db()
        return render

    def test_row_and_job_appear_together(self) -> None:
        render = self._order()
        self.assertEqual(render.state, "queued")
        [job] = ProcrastinateJob.objects.all()
        self.assertEqual((job.queue_name, job.args), ("renders", {"render_id": str(render.id)}))

    def test_the_plate_of_its_shot(self) -> None:
        """A layer that is the plate is delivered with it."""
        self.shot.recipe = plated_recipe()
        self.shot.save()
        lay_red_plate(self.shot, Path(self.root))
        render = self._work(self._order(first=3, last=3))
        self.assertEqual(render.state, "done")
        picture = read_picture(render.folder / render.frames.get().file)
        light = ((200 / 255 + 0.055) / 1.055) ** 2.4
        self.assertAlmostEqual(float(picture[20, 20, 0]), light, delta=0.02)
        self.assertEqual(float(picture[20, 20, 3]), 1)

    def test_a_plate_that_is_gone(self) -> None:
        """Nothing is delivered with a hole in it: it fails, says what is missing, and can be tried again.
        A recipe that does not take the plate needs none."""
        self.shot.recipe = plated_recipe()
        self.shot.save()
        lay_red_plate(self.shot, Path(self.root))
        still = Path(self.root) / "media" / "p" / "dusk.0001.jpg"
        kept = still.read_bytes()
        still.unlink()
        failed = self._work(self._order(first=3, last=3))
        self.assertEqual(failed.state, "failed")
        self.assertIn("dusk.0001.jpg is not there", failed.reason)
        still.write_bytes(kept)
        self.assertEqual(self.client_ada.call("POST", f"/renders/{failed.id}/retry")[0], 200)
        self.assertEqual(self._work(failed).state, "done")
        still.unlink()
        self.shot.recipe = small_recipe()
        self.shot.save()
        self.assertEqual(self._work(self._order(first=3, last=3)).state, "done")

    def test_the_bend_is_delivered(self) -> None:
        """An EXR of what bends the plate holds its offsets; a PNG cannot, and says so."""
        self.shot.recipe = bending_recipe()
        self.shot.save()
        render = self._work(self._order(first=6, last=6, format="exr-float"))
        with OpenEXR.File(str(render.folder / render.frames.get().file)) as file:
            across = file.channels()["offsets.X"].pixels
        self.assertGreater(float(across.max()), 2)
        self.assertLess(float(across.min()), -2)
        refused = self._work(self._order(first=6, last=6, format="png"))
        self.assertEqual(refused.state, "failed")
        self.assertIn("write an EXR", refused.reason)

    def test_refused_orders_leave_nothing(self) -> None:
        for changes in (
            {"first": 0},
            {"last": 99},
            {"first": 5, "last": 4},
            {"format": "bmp"},
            {"scale": 0},
        ):
            body = {"shot": str(self.shot.id), "first": 2, "last": 5} | changes
            self.assertIn(self.client_ada.call("POST", "/renders", body)[0], (400, 422), changes)
        self.assertEqual((Render.objects.count(), ProcrastinateJob.objects.count()), (0, 0))

    def test_frames_are_written_and_recorded(self) -> None:
        render = self._work(self._order())
        self.assertEqual(render.state, "done")
        names = [f"spark.000{frame}.exr" for frame in range(2, 6)]
        self.assertEqual(sorted(path.name for path in render.folder.iterdir()), names)
        line = self.client_ada.call("GET", f"/renders/{render.id}")[1]
        self.assertEqual((line["written"], line["runs"]), (4, [{"first": 2, "last": 5}]))
        sizes = [path.stat().st_size for path in render.folder.iterdir()]
        self.assertEqual(line["size"], sum(sizes))
        frame = self.client_ada.call("GET", f"/renders/{render.id}/frames/3")[1]
        self.assertEqual((frame["frame"], frame["file"], frame["size"]), (3, names[1], sizes[1]))
        self.assertGreater(float(read_picture(render.folder / names[0]).max()), 1)

    def test_runs_of_frames(self) -> None:
        """What is written is told run by run, of each render its own; a list asks for no recipes."""
        other = self._order()
        render = self._work(self._order())
        for gone, runs in ((4, [(2, 3), (5, 5)]), (2, [(3, 3), (5, 5)]), (5, [(3, 3)])):
            render.frames.filter(frame=gone).delete()
            with CaptureQueriesContext(connection) as asked:
                lines = {line["id"]: line for line in self.client_ada.call("GET", "/renders")[1]}
            told = lines[str(render.id)]
            self.assertEqual([(run["first"], run["last"]) for run in told["runs"]], runs)
            self.assertEqual(told["written"], sum(last - first + 1 for first, last in runs))
            self.assertEqual(
                (lines[str(other.id)]["runs"], lines[str(other.id)]["written"]), ([], 0)
            )
            for each in asked:
                self.assertNotIn('"renders_render"."recipe"', each["sql"])
        self.assertEqual(self.client_ada.call("GET", f"/renders/{render.id}/frames/2")[0], 404)

    def test_formats_and_scale(self) -> None:
        png = self._work(self._order(format="png", scale=0.5))
        self.assertEqual(read_picture(png.folder / "spark.0002.png").shape, (18, 32, 4))
        exact = self._work(self._order(format="exr-float"))
        with OpenEXR.File(str(exact.folder / "spark.0002.exr")) as file:
            self.assertEqual(file.channels()["RGBA"].pixels.dtype.name, "float32")

    def test_files_that_are_gone(self) -> None:
        """They are told, and made anew when it is tried again; the others stay as they are. One that is whole
        has nothing to try again."""
        render = self._work(self._order())
        self.assertEqual(self.client_ada.call("POST", f"/renders/{render.id}/retry")[0], 409)
        kept, gone = (render.folder / f"spark.{frame:04d}.exr" for frame in (2, 4))
        written = kept.stat().st_mtime_ns
        gone.unlink()
        archive = self.client_ada.get(f"/api/v1/renders/{render.id}/frames.zip")
        self.assertEqual(archive.status_code, 404)
        self.assertIn("1 of 4 frames are gone, the first of frame 4", archive.json()["says"])
        self.assertEqual(
            self.client_ada.get(f"/api/v1/renders/{render.id}/4.file").status_code, 404
        )
        self.assertEqual(self.client_ada.call("POST", f"/renders/{render.id}/retry")[0], 200)
        self.assertEqual(self._work(render).state, "done")
        self.assertTrue(gone.exists())
        self.assertEqual(kept.stat().st_mtime_ns, written)
        self.assertEqual(
            self.client_ada.get(f"/api/v1/renders/{render.id}/frames.zip").status_code, 200
        )

    def test_what_a_dead_writer_left(self) -> None:
        """Parts of files go when its render is gone on with; nothing else does."""
        render = self._order()
        render.folder.mkdir(parents=True)
        for name in (".spark.0002.exr.99.part.exr", "notes.txt"):
            (render.folder / name).write_text("half")
        self.assertEqual(self._work(render).state, "done")
        names = {path.name for path in render.folder.iterdir()}
        self.assertNotIn(".spark.0002.exr.99.part.exr", names)
        self.assertIn("notes.txt", names)

    def test_a_render_without_a_job_is_queued_again(self) -> None:
        """One that is under way and that nobody works on; not one that has a job, that is young, or that has
        ended."""
        held, lost, young, ended = (self._order() for _ in range(4))
        old = timezone.now() - timedelta(minutes=1)
        Render.objects.exclude(id=young.id).update(created=old)
        Render.objects.filter(id=lost.id).update(state="running")
        Render.objects.filter(id=ended.id).update(state="failed")

        def jobs() -> list[str]:
            return [job.args["render_id"] for job in ProcrastinateJob.objects.filter(status="todo")]

        with connection.cursor() as cursor:
            cursor.execute(
                "DELETE FROM procrastinate_jobs WHERE args->>'render_id' <> %s", [str(held.id)]
            )
        self.assertEqual(jobs(), [str(held.id)])
        self.assertEqual(queue_orphans(), 1)
        self.assertCountEqual(jobs(), [str(held.id), str(lost.id)])
        self.assertEqual(queue_orphans(), 0)
        self.assertEqual(self._work(lost).state, "done")

    def test_recipe_is_a_copy(self) -> None:
        """Work on the shot after the order does not reach the render."""
        render = self._order()
        body = {"seen": 1, "recipe": small_recipe(seed=42, name="Changed")}
        self.client_ada.call("PUT", f"/shots/{self.shot.id}", body)
        render = self._work(render)
        self.assertEqual((render.recipe, render.revision), (small_recipe(), 1))
        self.assertTrue((render.folder / "spark.0002.exr").exists())

    def _cancelled_at(
        self, render: Render, frame: int, and_then: Exception | None = None
    ) -> Render:
        """Worked off, and cancelled by its person while a frame is being computed."""

        def made(recipe: Recipe, at: int, *more: Any, **named: Any) -> Any:
            if at == frame:
                self.client_ada.call("POST", f"/renders/{render.id}/cancel")
                if and_then is not None:
                    raise and_then
            return render_frame(recipe, at, *more, **named)

        with mock.patch.object(working, "render_frame", made):
            return self._work(render)

    def test_cancel_stops_before_the_next_frame(self) -> None:
        """A worker in the middle of it writes the frame that it is at, and no other one."""
        render = self._cancelled_at(self._order(), 3)
        self.assertEqual((render.state, render.frames.count()), ("cancelled", 2))
        self.assertEqual(len(list(render.folder.iterdir())), 2)
        self.assertEqual(self._work(render).frames.count(), 2, "nor another worker later")

    def test_a_cancel_is_not_overwritten_by_the_end(self) -> None:
        """Neither by the last frame's nor by a failure's."""
        self.assertEqual(self._cancelled_at(self._order(), 5).state, "cancelled")
        failing = self._cancelled_at(self._order(), 3, WriteError("no room"))
        self.assertEqual((failing.state, failing.reason), ("cancelled", ""))

    def test_interrupted_goes_on_where_it_was(self) -> None:
        """Frames that are written are neither lost nor written again."""
        render = self._order()
        with self.assertRaises(Interrupted):
            self._work(render, stop_after=2)
        before = {path.name: path.stat().st_mtime_ns for path in render.folder.iterdir()}
        self.assertEqual(len(before), 2)
        self._work(render)
        self.assertEqual((render.state, render.frames.count()), ("done", 4))
        for name, written in before.items():
            self.assertEqual((render.folder / name).stat().st_mtime_ns, written)

    def test_killed_between_file_and_record(self) -> None:
        """A whole file that was not recorded yet is recorded, not made again."""
        render = self._work(self._order())
        render.frames.filter(frame=3).delete()
        Render.objects.update(state="queued")
        written = (render.folder / "spark.0003.exr").stat().st_mtime_ns
        self._work(render)
        self.assertEqual((render.state, render.frames.count()), ("done", 4))
        self.assertEqual((render.folder / "spark.0003.exr").stat().st_mtime_ns, written)

    def test_held_by_another_worker(self) -> None:
        """While another session holds the render's lock it is left alone, to be tried again."""
        render = self._order()
        with psycopg.connect(**other_session(), autocommit=True) as other:
            other.execute("SELECT pg_advisory_lock(%s)", [render.id.int & (2**63 - 1)])
            with self.assertRaises(Busy) as caught:
                self._work(render)
            render.refresh_from_db()
            self.assertEqual((render.state, render.frames.count()), ("queued", 0))
            other.execute("SELECT pg_advisory_unlock_all()")
        retry = render_frames.get_retry_exception(caught.exception, mock.Mock(attempts=0))
        self.assertIsNotNone(retry)
        self.assertEqual(self._work(render).state, "done")

    def test_unwritable_folder_fails_with_its_reason(self) -> None:
        """The reason is kept, nothing partial stays, and a retry goes on when the way is free."""
        render = self._order()
        render.folder.parent.mkdir(parents=True)
        render.folder.write_text("in the way")
        self._work(render)
        self.assertEqual(render.state, "failed")
        self.assertIn("could not be written", render.reason)
        render.folder.unlink()
        self.assertEqual(self.client_ada.call("POST", f"/renders/{render.id}/retry")[0], 200)
        self.assertEqual(ProcrastinateJob.objects.count(), 2)
        self._work(render)
        self.assertEqual((render.state, render.reason), ("done", ""))

    def test_only_what_ended_badly_is_tried_again(self) -> None:
        render = self._work(self._order())
        for state in ("done", "running", "queued"):
            Render.objects.update(state=state)
            answer = self.client_ada.call("POST", f"/renders/{render.id}/retry")
            self.assertEqual(answer[0], 409, state)
        self.assertEqual(ProcrastinateJob.objects.count(), 1)

    def test_the_name_of_an_archive(self) -> None:
        """It says the size where that is not the full one."""
        self.assertIn(".exr.50%.", archive_name(self._order(scale=0.5)))
        self.assertNotIn("%", archive_name(self._order()))

    def test_download(self) -> None:
        """One archive of all frames, of the length announced, and each frame by itself."""
        render = self._order()
        self.assertEqual(
            self.client_ada.get(f"/api/v1/renders/{render.id}/frames.zip").status_code, 404
        )
        self._work(render)
        response = self.client_ada.get(f"/api/v1/renders/{render.id}/frames.zip")
        content = _streamed(response)
        self.assertEqual(int(response.headers["Content-Length"]), len(content))
        with zipfile.ZipFile(io.BytesIO(content)) as archive:
            self.assertIsNone(archive.testzip())
            self.assertEqual(archive.namelist(), [f"spark.000{frame}.exr" for frame in range(2, 6)])
            whole = archive.read("spark.0003.exr")
        self.assertEqual(whole, (render.folder / "spark.0003.exr").read_bytes())
        one = self.client_ada.get(f"/api/v1/renders/{render.id}/3.file")
        self.assertEqual(_streamed(one), whole)
        look = self.client_ada.get(f"/api/v1/renders/{render.id}/3.jpg?channel=cover")
        self.assertEqual((look.status_code, look.headers["Content-Type"]), (200, "image/jpeg"))
        self.assertEqual(self.client_ada.get(f"/api/v1/renders/{render.id}/9.jpg").status_code, 404)

    def test_a_download_that_broke_off_goes_on(self) -> None:
        """RFC 9110, 14: from any byte, the rest is that of the whole; of another whole nothing is put together."""
        render = self._work(self._order())
        for address in (
            f"/api/v1/renders/{render.id}/frames.zip",
            f"/api/v1/renders/{render.id}/3.file",
        ):
            first = self.client_ada.get(address)
            whole, tag = _streamed(first), first.headers["ETag"]
            size = len(whole)
            self.assertEqual(first.headers["Accept-Ranges"], "bytes")
            for asked, part in (
                ("bytes=0-0", whole[:1]),
                ("bytes=100-", whole[100:]),
                ("bytes=100-299", whole[100:300]),
                (f"bytes={size - 5}-{size + 99}", whole[-5:]),
                ("bytes=-7", whole[-7:]),
                (f"bytes=-{size + 9}", whole),
            ):
                answer = self.client_ada.get(address, headers={"Range": asked, "If-Range": tag})
                self.assertEqual((answer.status_code, _streamed(answer)), (206, part), asked)
                begins = whole.index(part) if len(part) > 1 else 0
                self.assertEqual(answer.headers["Content-Range"], f"bytes {begins}-{begins + len(part) - 1}/{size}")  # fmt: skip
                self.assertEqual(answer.headers["Content-Length"], str(len(part)))
            for asked, given in (
                ("bytes=5-2", tag), ("bytes=0-1,4-5", tag), ("lines=1-2", tag), ("bytes=-", tag),
                ("bytes=100-", '"another"'),
            ):  # fmt: skip
                answer = self.client_ada.get(address, headers={"Range": asked, "If-Range": given})
                self.assertEqual((answer.status_code, _streamed(answer)), (200, whole), asked)
            beyond = self.client_ada.get(address, headers={"Range": f"bytes={size}-"})
            self.assertEqual((beyond.status_code, beyond.headers["Content-Range"]), (416, f"bytes */{size}"))  # fmt: skip
        tag = self.client_ada.get(f"/api/v1/renders/{render.id}/frames.zip").headers["ETag"]
        render.frames.filter(frame=4).delete()
        fewer = self.client_ada.get(f"/api/v1/renders/{render.id}/frames.zip").headers["ETag"]
        self.assertNotEqual(tag, fewer)

    def test_somebody_elses_render_is_not_there(self) -> None:
        render = self._work(self._order())
        other = client_of(person("Boris"))
        self.assertEqual(other.call("GET", "/renders")[1], [])
        for method, path in (
            ("GET", ""), ("POST", "/cancel"), ("POST", "/retry"), ("GET", "/frames.zip"),
            ("GET", "/2.jpg"), ("GET", "/2.file"),
        ):  # fmt: skip
            self.assertEqual(other.call(method, f"/renders/{render.id}{path}")[0], 404, path)
