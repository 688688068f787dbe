"""What every bench knows, as acceptance: verdicts that contradict it are wrong, however well the sums are done."""
