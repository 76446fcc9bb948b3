"""How a job is run: who is there and when, what wears and stops."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from wedgecraft.core.ground.documents import Document

Alone = Literal["no", "finish the cycle", "run on"]


class Running(Document):
    """What a run is reckoned with. Every starting value is from memory: time your own."""

    people: Annotated[
        int,
        Field(
            ge=1,
            le=20,
            title="People at these machines",
            description="Who load, change edges and mend; all of them for all setups of this job.",
        ),
    ] = 1
    elsewhere: Annotated[
        float,
        Field(
            ge=0,
            le=0.95,
            title="Share of their time that other machines take",
            description="One man on two machines is away for about half of it.",
        ),
    ] = 0
    starts: Annotated[
        float, Field(ge=0, lt=24, title="Day starts at", description="Hour of the day.")
    ] = 7
    break_minutes: Annotated[
        float,
        Field(
            ge=0,
            le=300,
            title="Break, minutes",
            description="In the middle of the day; the machine finishes what it has.",
        ),
    ] = 30
    days_a_week: Annotated[int, Field(ge=1, le=7, title="Days a week")] = 5
    alone: Annotated[
        Alone,
        Field(
            title="When people leave",
            description=(
                "No: no cycle is begun that they would not see end. Run on: as long as loaded"
                " fixtures, edges and luck last. The builder's manual and the shop's rules decide"
                " what may run alone."
            ),
        ),
    ] = "finish the cycle"
    clean_cycles: Annotated[
        int,
        Field(
            ge=0,
            le=1000,
            title="Clean cycles before it runs alone",
            description="Nothing runs alone before it has run well this often.",
        ),
    ] = 5
    spread: Annotated[
        float,
        Field(
            ge=0,
            le=2,
            title="Loading, spread over mean",
            description="No two loadings take the same time.",
        ),
    ] = 0.15
    cutting_factor: Annotated[
        float,
        Field(
            gt=0,
            le=10,
            title="Cycle, real over reckoned",
            description="Feeds turned down, look-ahead, dwell: what the log shows of it.",
        ),
    ] = 1.0
    swap_seconds: Annotated[
        float,
        Field(
            ge=0,
            le=36_000,
            title="Swapping fixtures on the table, seconds",
            description="Door open, one off, the next on, zero looked at, door shut.",
        ),
    ] = 120
    edge_minutes: Annotated[
        float,
        Field(
            ge=1,
            le=100_000,
            title="Life of an edge, minutes of cut",
            description="From the maker's table or your own; a cut in other material is another.",
        ),
    ] = 60
    edge_spread: Annotated[float, Field(ge=0, le=1, title="Life, spread over mean")] = 0.25
    sisters: Annotated[
        int,
        Field(
            ge=0,
            le=20,
            title="Sister tools of each",
            description="In the magazine, for when an edge is worn.",
        ),
    ] = 0
    edge_seconds: Annotated[
        float, Field(ge=0, le=36_000, title="Changing an edge, seconds, measuring it too")
    ] = 300
    stop_every_hours: Annotated[
        float,
        Field(
            gt=0,
            le=100_000,
            title="Something goes wrong every … hours of cut",
            description="Chips in the way, a part not seated, coolant low.",
        ),
    ] = 40
    stop_minutes: Annotated[float, Field(ge=0, le=10_000, title="and takes, minutes")] = 15
    inspect_every: Annotated[
        int, Field(ge=0, le=100_000, title="Parts measured, one in …; 0 none")
    ] = 20
    inspect_minutes: Annotated[float, Field(ge=0, le=1000, title="Measuring one, minutes")] = 4
    scrap: Annotated[
        float,
        Field(
            ge=0,
            lt=1,
            title="Share scrapped",
            description="Parts out of tolerance or pulled out; from your log where there is one.",
        ),
    ] = 0.01
    blank_price: Annotated[float, Field(ge=0, le=1e6, title="A blank, price; 0 unknown")] = 0
