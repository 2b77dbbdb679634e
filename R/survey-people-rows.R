# People who are too many at once, with their weights and clusters: gone through some at a time, or as patterns of missing answers.

# A function that gives a list of what each(cases x items, weight, cluster) gives, some of those who answered one of the items at a time;
# weight, cluster: columns, or NULL; mean_weight: of these people.
designed_rows <- function(survey, items, weight = survey$weight, cluster = survey$cluster, mean_weight = 1) {
  # Nothing is asked of a table while it is gone through.
  force(mean_weight)
  function(each) {
    source_by_rows(survey, items, function(rows, beside) {
      some <- rowSums(!is.na(rows)) > 0
      each(rows[some, , drop = FALSE], if (!is.null(weight)) as.numeric(beside[[weight]])[some] / mean_weight,
        if (!is.null(cluster)) as.character(beside[[cluster]])[some])
    }, beside = as.character(unique(c(weight, cluster))))
  }
}

# list(patterns, n people, mean_weight): patterns of missing answers by weights of mean one.
designed_patterns <- function(survey, items, weight = survey$weight) {
  plain <- source_patterns(survey, items)
  n <- sum(vapply(plain, `[[`, 0, "n"))
  if (is.null(weight)) {
    return(list(patterns = plain, n = n, mean_weight = 1))
  }
  weighted <- source_patterns(survey, items, as.numeric(source_column(survey, weight)))
  mean_weight <- sum(vapply(weighted, `[[`, 0, "n")) / n
  list(patterns = lapply(weighted, function(one) utils::modifyList(one, list(n = one$n / mean_weight))), n = n, mean_weight = mean_weight)
}

# Are answers to these items near normal, by their counts alone?
near_normal_tallied <- function(survey, items) {
  sums <- vapply(items, function(item) {
    tally <- source_tally(survey, item)
    count <- replace(tally$counts, is.na(tally$counts), 0)
    d <- tally$values - sum(count * tally$values) / sum(count)
    c(n = sum(count), second = sum(count * d^2), third = sum(count * d^3), fourth = sum(count * d^4))
  }, c(n = 0, second = 0, third = 0, fourth = 0))
  near_normal_powers(sums)
}

# Sums of the clusters (core_cluster_sums()) of several sets of columns; columns(answers): a list of matrices with a row a person, NA
# where somebody has nothing there.
cluster_sums <- function(survey, items, columns) {
  total <- NULL
  centre <- NULL
  designed_rows(survey, items, weight = NULL)(function(answers, weight, cluster) {
    sets <- columns(answers)
    if (is.null(centre)) centre <<- lapply(sets, colMeans, na.rm = TRUE)
    own <- Map(function(x, at) {
      some <- rowSums(!is.na(x)) > 0
      core_cluster_sums(x[some, , drop = FALSE], cluster[some], at)
    }, sets, centre)
    total <<- if (is.null(total)) own else Map(core_joined_sums, total, own)
    NULL
  })
  total
}

# Patterns of missing answers without the people of each group in turn, people falling into groups by a hash of the seed and of their cluster,
# identifier or row: list of lists of patterns, by weights of mean one; NULL where patterns are too many to go through in every group.
patterns_without <- function(survey, items, groups, seed) {
  if (length(source_patterns(survey, items)) * groups > 2e4) {
    return(NULL)
  }
  mean_weight <- designed_patterns(survey, items)$mean_weight
  label <- c(survey$cluster, survey$id)[1]
  known <- lapply(seq_len(groups), function(g) new.env(parent = emptyenv()))
  at <- 0
  source_by_rows(survey, items, function(rows, beside) {
    who <- if (is.na(label)) as.character(at + seq_len(nrow(rows))) else as.character(beside[[label]])
    at <<- at + nrow(rows)
    weight <- if (is.null(survey$weight)) rep(1, nrow(rows)) else as.numeric(beside[[survey$weight]]) / mean_weight
    members <- split(seq_len(nrow(rows)), factor(kernel_person_groups(who, seed, groups), seq_len(groups)))
    for (g in which(lengths(members) > 0)) {
      own <- members[[g]]
      for (pattern in core_answer_patterns(rows[own, , drop = FALSE], weight[own])) add_pattern(known[[g]], pattern)
    }
    NULL
  }, beside = as.character(unique(c(survey$weight, if (!is.na(label)) label))))
  known <- Filter(function(one) length(ls(one)) > 0, known)
  lapply(seq_along(known), function(g) {
    rest <- new.env(parent = emptyenv())
    for (other in known[-g]) for (key in ls(other)) add_pattern(rest, other[[key]])
    ordered_patterns(as.list(rest), length(items))
  })
}
