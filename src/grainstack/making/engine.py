"""Where records are read and summed up: on this machine, or on many."""

from grainstack.errors import IdleError, RequestError
from grainstack.option_fields import Request, switch, word
from grainstack.option_names import option


class EngineRequest(Request, frozen=True):
    """Where records are read and summed up.

    Raises:
        RequestError: A cluster without an address.
        IdleError: An address without a cluster, or queries that other machines send.
    """

    engine: str = word(
        "here", "Where records are read and summed up.", group="Records", metavar="ENGINE", choices=("here", "dask")
    )
    scheduler: str | None = word(
        None,
        "The scheduler of the cluster, such as tcp://10.0.0.1:8786.",
        group="Records",
        metavar="ADDRESS",
    )

    explain: bool = switch("Print the queries that are sent to a database.", group="Records")

    def __post_init__(self) -> None:
        Request.__post_init__(self)
        if self.engine == "dask" and not self.scheduler:
            raise RequestError(
                f"{option('engine', 'dask')} needs the address of a scheduler.",
                f"Add {option('scheduler', 'tcp://HOST:8786')}.",
            )
        if self.engine == "dask" and self.explain:
            raise IdleError(
                f"{option('explain')} makes no difference on a cluster, whose machines ask the database.",
                "Leave it out.",
            )
        if self.engine == "here" and self.scheduler:
            raise IdleError(
                f"{option('scheduler')} makes no difference: this machine reads the records itself.",
                f"Add {option('engine', 'dask')}, or leave it out.",
            )
