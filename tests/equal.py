"""Changes `bin/mutate` leaves aside because they are no other answer: nobody can write a test that notices them. Each
has a piece of the line it stands on and its reason. A reason is looked at like a test: one that does not hold hides a
limit that nothing holds."""

NEVER_EQUAL = "two measured numbers that are never just equal"
A_SEARCH = "how a search walks, not where it ends"

EQUAL = {
    "built/asbuilt: self.mesh.neighbours < 0 -> self.mesh.neighbours <= 0": [
        ("outer, own =", "a building stands along the outline, where no triangle has another beside it")
    ],
    "setout/pegs: standard[n] > 0.95 * standard.max() -> standard[n] >= 0.95 * standard.max()": [
        ("doubted", NEVER_EQUAL)
    ],
    "setout/pegs: 1 -> 2": [("np.abs(step).max() < 1", A_SEARCH)],
    "strength/soil: (fine := (1 / (0.017019 * index) ** 2)) < 10 -> (fine := (1 / (0.017019 * index) ** 2)) <= 10": [
        ("fine :=", NEVER_EQUAL)
    ],
    "strength/soil: 0.01 -> 0.0101": [("short(0.01)", A_SEARCH)],
    "lifts/subgrade: order[t.id] > order[cure.id] -> order[t.id] >= order[cure.id]": [("dwithin", "no entry is two")],
}
