# Indices of how a person answered, one value a row of a matrix of answers (numbers, NA where one is missing).

# Longest run of one and the same answer in a row; a missing answer ends a run.
core_longest_run <- function(x) kernel_longest_runs(x)

# Standard deviation within each row; NA with fewer than two answers.
core_row_sd <- function(x) kernel_person_spreads(x)

# Even-odd consistency (Jackson, 1976): over subscales, the correlation within a
# person of the mean of the odd with the mean of the even items, stepped up by
# Spearman-Brown where it is positive. scales: list of column numbers. NA with fewer than three
# subscales that have both halves.
core_even_odd <- function(x, scales) kernel_even_odd(x, scales)

# How far a person's keyed answers to forward and to reversed items of the same
# subscale lie apart, 0 to 1 of the range, mean over subscales that have both.
# forward, reversed: lists of column numbers; width: range of the answers.
core_contradiction <- function(x, forward, reversed, width) kernel_contradictions(x, forward, reversed, width)
