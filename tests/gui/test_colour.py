"""The colour of the light at Light, by keys: lamp and cell said, the correction in the chain and out, a spectrum brought in."""

import unittest

from tests.cli.test_power import run
from tests.gui.window import ALT, CTRL, KEY, WindowTest
from violet_dial.stations.light.colour_state import sentence


class Colours(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        self.new_job()
        self.press(KEY.Key_5, ALT)
        self.press(KEY.Key_Tab, CTRL)
        self.colour = self.page.at("Light").colour

    def say(self, text: str) -> None:
        self.type_in(text)
        self.press(KEY.Key_Return)

    @property
    def job(self):  # type: ignore[no-untyped-def]
        return self.page.view.job

    def test_the_cell_first_then_the_error_into_the_chain_and_out(self) -> None:
        self.assertIn("Which cell", self.colour.headline.text())
        self.assertFalse(self.colour.view.isVisible())
        self.say("cell silicon")
        self.assertIn("Under A it reads 1.62 stop high", self.colour.headline.text())
        self.assertTrue(self.colour.view.isVisible())
        self.assertIn("lower than said here", sentence(self.job))
        self.say("correct")
        link = self.job.light.setup.chain.links[0]
        self.assertAlmostEqual(link.stops, 1.6155, places=3)
        self.assertGreater(link.u_stops, 0.1)
        self.assertIn("is corrected for D55", sentence(self.job))
        self.say("uncorrect")
        self.assertEqual(self.job.light.setup.chain.links, ())
        self.press(KEY.Key_Z, CTRL)
        self.assertEqual(len(self.job.light.setup.chain.links), 1)

    def test_what_lies_before_and_over(self) -> None:
        self.say("cell cds 620")
        bare = self.colour.headline.text()
        self.say("behind 80A")
        self.assertNotEqual(self.colour.headline.text(), bare)
        self.say("over yellowed 40 %")
        self.assertIn("under yellowed 40 %", self.colour.stands.text())
        self.say("behind 99Z")
        self.assertEqual(self.job.light.colour.behind, ("80A",))
        self.assertIn("80A, 80B", self.colour.typed.said.text())
        self.press(KEY.Key_F3)
        self.assertIn("colour of the light", self.dialog.windowTitle())
        self.press(KEY.Key_Escape)

    def test_a_spectrum_is_brought_in_and_put_to_use(self) -> None:
        path = self.folder / "desk lamp.csv"
        path.write_text("nm,power\n400,0.1\n500,0.5\n600,1\n700,1.4\n", encoding="utf-8")
        self.say("cell selenium")
        self.press(KEY.Key_I, CTRL)
        self.name_file(path)
        self.until(lambda: self.job.light.colour.lamp == "desk lamp", self.said)
        self.assertIn("Under desk lamp", self.colour.headline.text())
        path.write_text("nm,power\n400,0.1\n390,0.5\n600,1\n", encoding="utf-8")
        self.press(KEY.Key_I, CTRL)
        self.name_file(path)
        self.until(lambda: "rising" in self.said, self.said)


class Command(unittest.TestCase):
    def test_bad_input_is_one_line(self) -> None:
        for words, said in (
            (("--source", "moon", "--cell", "selenium"), "Light"), (("--source", "A", "--cell", "tin"), "Cell"),
            (("--source", "A", "--cell", "cds", "--filter", "99Z"), "Filter"),
            (("--source", "none.csv", "--cell", "cds"), "none.csv"),
            (("--source", "90000 K", "--cell", "cds"), "25000"), (("--cell", "cds"), "--source"),
        ):  # fmt: skip
            with self.subTest(said):
                status, out, error = run("colour", *words, "--json")
                self.assertEqual((status, out), (2, ""))
                self.assertIn(said, error)


if __name__ == "__main__":
    unittest.main()
