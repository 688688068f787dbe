"""Jobs of which every fact is entered, for tests that are about other things."""

from zeotherm.core.machine.documents import Job, Setup
from zeotherm.core.machine.known import Known
from zeotherm.core.machine.quantity import declared


def all_known(job: Job) -> Job:
    """The same job, with nothing left to be assumed."""
    return job.model_copy(update={"known": {path: Known() for path in declared(Setup)}})
