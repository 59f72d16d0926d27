"""The calculator: the core on files, without database or server. Its inputs and output keys are a contract."""
