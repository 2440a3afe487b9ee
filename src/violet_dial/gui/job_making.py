"""The job page of a window made, with what its stations may ask of the house."""

from __future__ import annotations

from typing import TYPE_CHECKING

from violet_dial.gui.job_acts import JobActs
from violet_dial.gui.job_page import JobPage
from violet_dial.kit.context import PageContext, PageInstruments, PagePapers, PageRecords
from violet_dial.kit.files import Chooser
from violet_dial.services.lessons import known_dial, offer_for, own_cells_of

if TYPE_CHECKING:
    from violet_dial.gui.main_window import MainWindow


def made_page(window: MainWindow) -> tuple[JobPage, JobActs]:
    """A job page over the window's workshop, and the acts that ask something first."""
    chooser = Chooser(window.look.settings)
    made: list[JobActs] = []  # the pages ask for them only once they are shown

    def acts() -> JobActs:
        return made[0]

    def context(page: JobPage) -> PageContext:
        records = PageRecords(
            thumbnail=page.photos.small,
            photo=page.photos.large,
            attach_photos=page.photos.attach,
            choose_many=lambda title, kinds, then: chooser.ask_open_many(window, title, kinds, then),
            lessons=lambda job: offer_for(window.workshop, job),
            own_cells=lambda job: own_cells_of(window.workshop, job),
            known_dial=lambda job: known_dial(window.workshop, job),
            log=lambda: page.view.log if page.view is not None else (),
            workshop_path=lambda: window.workshop.path,
        )
        papers = PagePapers(
            sheet=lambda job: acts().sheet(job),
            card=lambda job: acts().card(job),
            turn_paper=lambda: acts().turn_paper(),
            print_made=lambda name, content: acts().print_made(name, content),
            print_sheet=lambda: acts().print_sheet(),
            write_sheet=lambda: acts().write_sheet(),
        )
        return PageContext(
            window.look, page.bar, page.perform, page.perform_coalesced, page.said.emit, instruments(), records, papers
        )

    def instruments() -> PageInstruments:
        live = window.live
        return PageInstruments(
            meter_on=live.meter_on,
            sound_card=live.sound_card,
            camera=live.camera,
            camera_chosen=live.camera_chosen,
            use_camera=live.use_camera,
            light=lambda: window.live.bench.light,
            lux=lambda: window.live.bench.lux,
            set_lux=live.bench.set_lux,
            scope=live.scope,
            hands_free=lambda: window.live.bench.hands_free,
            hear=live.hear,
        )

    page = JobPage(window.look, window.workshop, context)
    made.append(JobActs(window, page, window.workshop, window.look, chooser))
    return page, acts()
