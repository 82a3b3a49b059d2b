"""Where the hands are: step lists with gates, and drills that train the judgement."""
