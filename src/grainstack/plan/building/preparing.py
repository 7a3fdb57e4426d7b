"""What has to be known of all records before the entries of a plan can be made."""

from collections.abc import Sequence

from grainstack.making.make import Read
from grainstack.plan.building.choices import with_choices
from grainstack.plan.building.colors import Shared, shared_levels
from grainstack.plan.building.each import each_entry
from grainstack.plan.building.levels import ColumnLevels
from grainstack.plan.file.plan import Plan, PlanEntry


def prepared(
    plan: Plan, entries: Sequence[PlanEntry], levels: ColumnLevels, read: Read, faults: list[str]
) -> tuple[tuple[PlanEntry, ...], Shared]:
    """The entries of a plan, each for every level it is made for, and the levels that charts of several sources share.

    Args:
        plan: The plan.
        entries: Which of its entries.
        levels: Tells the levels of columns.
        read: Has the records of one source read.
        faults: What is wrong with them, a line each.
    """
    each = with_choices(each_entry(entries, levels, read, faults), levels, read, faults)
    local = [one for one in plan.entries if one in entries or not one.reads_addresses]
    return each, shared_levels(local, levels, read)
