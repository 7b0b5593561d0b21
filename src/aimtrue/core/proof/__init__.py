"""The proof: released bytes held against the bytes of the original, by a way of its own.

What is asked of a file is worked out here from the decisions of a job and the bytes of its sources alone.
Readers, the chain from number to plate, and all comparisons are written a second time: nothing here imports
what writes a release, and import-linter holds that. A fault in any line of the rest must show as a proof
that does not hold.
"""

from aimtrue.core.proof.order import FileLayout as FileLayout
from aimtrue.core.proof.prove import ProofBroken as ProofBroken
from aimtrue.core.proof.prove import prove as prove
from aimtrue.core.proof.sources import ProofSources as ProofSources
from aimtrue.core.proof.values import Check as Check
from aimtrue.core.proof.values import Proof as Proof
