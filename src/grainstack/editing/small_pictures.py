"""States as small pictures: of forms, of earlier states, of the entries of a plan. Each is drawn once."""

from collections import OrderedDict

import msgspec

from grainstack.editing.drawing import Drawing
from grainstack.editing.state import State
from grainstack.editing.turns import Turns

_MOST = 200  # pictures that are kept


class SmallPictures:
    """The small pictures of one sitting.

    Args:
        turns: Lets changes go first.
    """

    def __init__(self, turns: Turns) -> None:
        self._turns = turns
        self._drawn: OrderedDict[str, tuple[str, str]] = OrderedDict()

    def forget(self) -> None:
        """Draws all anew when they are looked at next."""
        self._drawn.clear()

    def of(self, state: State, drawing: Drawing) -> tuple[str, str]:
        """A state as a picture, or why there is none.

        Args:
            state: What is asked for.
            drawing: What draws it.

        Raises:
            StoppedError: A change comes first.
        """
        key = repr((id(drawing), msgspec.json.encode(state)))
        if key not in self._drawn:
            with self._turns.of_small_picture():
                self._drawn[key] = drawing.picture(state, self._turns.check_free_of)
            while len(self._drawn) > _MOST:
                self._drawn.popitem(last=False)
        return self._drawn[key]
