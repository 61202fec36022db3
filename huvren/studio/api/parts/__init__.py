"""What several groups of routes share: shapes, answers, problems and rates."""
