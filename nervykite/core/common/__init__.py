"""The small things that all wings share: colours, refusals, stores of results, work in other threads and processes."""
