# Which options count as which once rare ones are joined: the rarest below `least` with its rarer neighbour, both as the more frequent of the two,
# until none is too rare or two are left. values: in order; counts: of each. list(from, to, counts).
core_joined_options <- function(values, counts, least) {
  to <- values
  left <- values
  size <- counts
  while (length(left) > 2 && min(size) < least) {
    k <- which.min(size)
    beside <- setdiff(c(k - 1, k + 1), c(0, length(left) + 1))
    other <- beside[which.min(size[beside])]
    into <- if (size[other] >= size[k]) other else k
    gone <- setdiff(c(k, other), into)
    to[to == left[gone]] <- left[into]
    size[into] <- size[into] + size[gone]
    left <- left[-gone]
    size <- size[-gone]
  }
  list(from = values, to = to, counts = counts)
}
