"""Work that goes on while the page does other things: stills, clips, hand-overs.

Each job is a folder that holds its order, what is wished of it, how far it is and all that it has
gathered, so that it goes on after any end of any process, or says that it ended.
"""

from .job import ENDED, Job, JobState, Shelf, Wish
from .queue import Queue
from .running import RunningJob

__all__ = ["ENDED", "Job", "JobState", "Queue", "Shelf", "RunningJob", "Wish"]
