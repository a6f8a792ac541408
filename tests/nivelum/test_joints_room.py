"""The Joints room: patches gone over, units mended, joints filled by steps; what is refused loses nothing."""

import uuid

import pytest

from groundwork.jointwork import FaultKind
from groundwork.layerwork import MachineBrought
from groundwork.tools import Machine, MachineKind

pytestmark = pytest.mark.django_db


def sent(**fields) -> dict:
    return {"entry_id": str(uuid.uuid4()), **fields}


def post(world, at: str, role: str = "crew", /, **fields):
    return world.client(role).post(f"/jobs/{world.job.id}/joints/{at}/", sent(**fields))


def page(world, at: str = "", **asked) -> str:
    return world.client("crew").get(f"/jobs/{world.job.id}/joints/{at}", asked).content.decode()


@pytest.fixture
def plated(world):
    """A plate of 18 kN on the job, the level set up."""
    world.set_up()
    plate = Machine("small plate", MachineKind.PLATE, 90, 0.4, 0.5, force=18.0)
    world.record(MachineBrought(str(uuid.uuid4()), plate))
    return world


def gone_over(world, way: str, patch: str = "1"):
    machine = world.assessment().seating.machine_now
    return post(world, "passes", machine=machine, direction=way, patch=patch)


def test_a_patch_is_seated_by_three_passes_and_then_it_is_shot(plated) -> None:
    assert "3 more passes, along next" in page(plated)
    for way, left in (("along", "2 more passes, across next"), ("across", "1 more pass, along next")):
        assert gone_over(plated, way).status_code == 302 and left in page(plated)
    assert gone_over(plated, "along").status_code == 302
    text = page(plated)
    assert "Gone over everywhere" in text and "Shoot it as it lies now" in text
    assert "V03" not in {f.rule for f in plated.assessment().stages.of("seating").findings}
    refused = post(plated, "passes", machine="x", direction="along", patch="1")
    assert refused.status_code == 422 and "machine" in refused.content.decode()


def test_how_high_it_lies_is_foretold_and_read_before_the_plate(plated) -> None:
    there = plated.assessment()
    station, set_up = "A1", there.levels.set_up.id
    target = there.seating.target(station, there.levels.references[set_up])
    high = f"{(target - 0.002) * 1000:.0f}"
    assert post(plated, "before", station=station, set_up=set_up, reading=high).status_code == 302
    assert plated.assessment().seating.stations[station].before == pytest.approx(there.seating.drop + 0.002, abs=6e-4)
    # A metre off looks misread and is asked about, with what was typed still there.
    doubted = post(plated, "before", station="A2", set_up=set_up, reading=f"{(target - 1.0) * 1000:.0f}")
    assert doubted.status_code == 422 and f"{(target - 1.0) * 1000:.0f}" in doubted.content.decode()
    assert plated.assessment().seating.stations["A2"].before is None


def test_units_are_listed_walked_to_and_mended(world) -> None:
    assert post(world, "units/fault", at="4.0 3.0", fault="cracked", words="").status_code == 302
    assert post(world, "units/fault", at="1.0 1.0", fault="rocks", words="by the gate").status_code == 302
    text = page(world, "units/")
    assert "2 units to mend" in text and "by the gate" in text
    first = world.assessment().seating.to_mend[0].found
    assert first.fault is FaultKind.ROCKS
    assert post(world, "units/mended", found=first.id).status_code == 302
    assert "1 unit to mend" in page(world, "units/")
    for bad, said in (({"at": "40 30"}, "not on this area"), ({"at": "here"}, "east and north")):
        refused = post(world, "units/fault", **{"fault": "rocks", "words": "kept"} | bad)
        assert refused.status_code == 422
        assert said in refused.content.decode() and 'value="kept"' in refused.content.decode()


def test_a_lip_is_held_to_the_faces_of_the_units(world) -> None:
    assert post(world, "units/lip", place="2 2", lip="3").status_code == 302
    assert "a lip of 3 mm" in page(world, "units/")
    assert post(world, "units/face", face="riven").status_code == 302
    assert "No unit to mend" in page(world, "units/")
    assert post(world, "units/lip", place="2 2", lip="200").status_code == 422


def test_joints_are_filled_by_steps_taped_and_opened(world) -> None:
    joints = world.assessment().jointing
    assert joints.fill.steps[0].does in page(world, "filling/")
    for step in joints.fill.steps:
        assert post(world, "filling/step", step=step.key, at="2026-03-05T09:00", patch="").status_code == 302
    for spot in range(1, joints.places + 1):
        assert post(world, "filling/depth", patch="1", spot=str(spot), below="2").status_code == 302
    text = page(world, "filling/")
    assert "Full everywhere" in text and "Walk on it from" in text
    assert post(world, "filling/depth", patch="1", spot="1", below="9").status_code == 302
    assert "J03" in {f.rule for f in world.assessment().stages.of("joints").stops}
    later = post(world, "filling/step", step="sweep", at="2099-01-01T09:00", patch="")
    assert later.status_code == 422 and "still to come" in later.content.decode()


def test_what_went_in_and_how_dry_it_was_in_the_crews_own_units(world) -> None:
    assert post(world, "filling/used", mass="25", patch="1").status_code == 302
    assert "25 kg" in page(world, "filling/")
    assert post(world, "filling/used", mass="250", patch="1").status_code == 302
    wrong = world.assessment().jointing.went_in[-1].id
    assert wrong in page(world, "filling/")
    assert post(world, "filling/strike", strikes=wrong).status_code == 302
    assert world.assessment().jointing.used == 25 and wrong not in page(world, "filling/")
    typed = {"air": "20", "surface": "18", "humidity": "60", "chance": "5"}
    assert post(world, "filling/air", **typed).status_code == 302
    assert "Surface 18 °C, dew point 12 °C" in page(world, "filling/")
    assert post(world, "filling/air", **typed | {"humidity": "140"}).status_code == 422
    world.crew.rod = "ft-in"
    world.crew.save()
    assert "lb" in page(world, "filling/") and "Surface 64 °F, dew point 54 °F" in page(world, "filling/")


def test_the_sides_are_held_and_filled_up_behind(world) -> None:
    def edge(what: str, **fields):
        return world.client("crew").post(f"/jobs/{world.job.id}/edges/held/{what}/", sent(**fields))

    assert "E10" in {f.rule for f in world.assessment().stages.of("late-edges").stops}
    for side in range(len(world.assessment().site.outline)):
        assert edge("holds", side=str(side), holds="paving").status_code == 302
    assert "E10" not in {f.rule for f in world.assessment().stages.of("late-edges").stops}
    assert edge("behind", side="1", below="-5").status_code == 302
    assert "E12" in {f.rule for f in world.assessment().stages.of("late-edges").stops}
    assert edge("behind", side="1", below="15").status_code == 302
    assert "E12" not in {f.rule for f in world.assessment().stages.of("late-edges").stops}
    assert edge("spikes", side="0", edge=str(uuid.uuid4()), number="3").status_code == 422
    assert edge("nothing", side="0").status_code == 404
