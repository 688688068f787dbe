"""The whole machine in time: hotend field and what surrounds it, coupled."""
