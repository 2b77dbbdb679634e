# Invariance of ordered answers: thresholds before loadings.

ordered_step_kinds <- list(
  configural = character(), thresholds = "threshold", metric = c("threshold", "loading"), scalar = c("threshold", "loading", "intercept"),
  strict = c("threshold", "loading", "intercept", "residual variance")
)

# Polychoric correlations of answers, by the numbers of their categories.
coded_pairs <- function(answers, whole, values) {
  columns <- stats::setNames(lapply(seq_len(ncol(answers)), function(j) match(answers[, j], values[[j]])), colnames(answers))
  core_polychoric(columns, complete = whole, covariance = TRUE)
}

# The thresholds and correlations of one group, and how many answered each item: list(n, moments, gamma, pairs, s, thresholds, answered).
ordered_sample <- function(found, answered, label) {
  if (found$status != "ok" || anyNA(found$r)) {
    stop_numeric(message_of("e_correlations_behind_answers", label = label))
  }
  p <- ncol(found$r)
  pairs <- length(unlist(found$thresholds)) + seq_len(p * (p - 1) / 2)
  if (any(!is.finite(diag(found$covariance))) || any(diag(found$covariance)[pairs] <= 0)) {
    stop_numeric(message_of("e_some_polychoric_correlation_no", label = label), hint = message_of("e_join_rare_categories"))
  }
  list(
    n = found$cases, moments = c(unlist(found$thresholds, use.names = FALSE), found$r[lower.tri(found$r)]), gamma = found$covariance,
    pairs = pairs, s = found$r, thresholds = found$thresholds, answered = unname(answered)
  )
}

# The categories of each item of one wave, which all occasions use: a list of their values. found: by group, by item and wave, what occurs.
shared_categories <- function(found, labels, items, waves) {
  used <- function(item, groups) unlist(lapply(found[groups], function(own) own[item + (seq_len(waves) - 1) * length(items)]), recursive = FALSE)
  all <- lapply(seq_along(items), function(i) sort(unique(unlist(used(i, seq_along(found))))))
  differ <- do.call(c, lapply(seq_along(labels), function(g) {
    do.call(c, lapply(seq_along(items), function(i) {
      gone <- setdiff(all[[i]], Reduce(intersect, used(i, g)))
      if (length(gone) > 0) list(message_of("nobody_answers", item = items[i], group = labels[g], answers = as.character(gone)))
    }))
  }))
  if (length(differ) > 0) {
    stop_input(message_of("e_some_answers_used"), faults = differ, hint = message_of("e_join_neighbouring_answers"))
  }
  if (any(lengths(all) > 20)) stop_many_categories()
  stats::setNames(all, items)
}

stop_many_categories <- function() stop_input(message_of("e_thresholds_ordered_answers"))

# Which of the steps these numbers of categories can tell.
ordered_steps <- function(steps, categories) {
  if (all(categories == 2)) setdiff(steps, c("thresholds", "metric")) else steps
}

ordered_plan <- function(plan, basis) {
  cuts <- lengths(basis$values) - 1L
  base <- plan$base
  plan$cells <- core_ordered_cells(plan$cells, lengths(basis$values), nrow(base) + length(plan$factors))
  means <- cell_rows("mean", seq_along(plan$factors), 1L, 0L, 0)
  thresholds <- cell_rows("threshold", rep(seq_along(cuts), cuts), sequence(cuts), 1L, 0)
  plan$base <- rbind(base, means[names(base)], thresholds[names(base)])
  plan
}

# Cells whose equality a step adds: those that share a number with the first occasion's, and those
# held at the first occasion's value.
ordered_equalities <- function(fit, kind) {
  cells <- fit$cells
  later <- (cells$group > 1 | cells$wave > 1) & !is.na(cells$base)
  first <- cells$free[cells$group == 1 & cells$wave == 1 & cells$free > 0]
  held <- if (kind %in% c("intercept", "residual variance")) cells$free == 0 else cells$free %in% first
  which(later & cells$kind == kind & held)
}

# What released items do: the expected answer on an occasion less the one the first occasion's
# parameters give, over the people of the occasion.
ordered_effects <- function(fit, plan, basis) {
  cells <- fit$cells
  value <- core_cell_values(cells, fit$theta)
  kinds <- cell_kinds(plan$base)[fit$released]
  items <- sort(unique(plan$base$row[fit$released[kinds %in% c("threshold", "loading", "intercept")]]))
  if (length(items) == 0) {
    return(NULL)
  }
  p <- length(plan$items)
  m <- length(plan$factors)
  place <- expand.grid(i = items, w = seq_len(basis$waves), g = seq_len(basis$groups))
  place <- place[!(place$g == 1 & place$w == 1), ]
  grid <- seq(-4, 4, length.out = 81)
  mass <- stats::dnorm(grid) / sum(stats::dnorm(grid))
  of <- function(kind, g, w, row) value[cells$kind == kind & cells$group == g & cells$wave == w & !is.na(cells$base) & cells$row == row]
  do.call(rbind, lapply(seq_len(nrow(place)), function(r) {
    at <- place[r, ]
    k <- plan$base$column[plan$base$part == core_parts[["loading"]] & plan$base$row == at$i][1]
    variance <- value[cells$kind == "factor variance" & cells$group == at$g & cells$wave == at$w & cells$row == k + (at$w - 1) * m &
      cells$column == cells$row]
    eta <- of("mean", at$g, at$w, k + (at$w - 1) * m) + sqrt(variance) * grid
    expected <- function(g, w) {
      row <- at$i + (w - 1) * p
      core_expected_answer(eta, basis$values[[at$i]], of("threshold", g, w, row), of("intercept", g, w, row), of("loading", g, w, row)[1],
        of("residual variance", g, w, row))
    }
    apart <- expected(at$g, at$w) - expected(1, 1)
    counts <- ordered_counts(basis$samples[[1]], at$i) + ordered_counts(basis$samples[[at$g]], at$i + (at$w - 1) * p)
    signed <- sum(mass * apart)
    plain_table(
      item = plan$items[at$i], factor = plan$factors[k], occasion = occasion_of(data.frame(group = at$g, wave = at$w), basis),
      difference = signed, effect = sqrt(sum(mass * apart^2)) / core_tally_shape(list(values = basis$values[[at$i]], counts = counts))[["sd"]],
      on_mean = signed / sum(plan$base$part == core_parts[["loading"]] & plan$base$column == k)
    )
  }))
}

# How often each category of an item was answered, which thresholds and the number of answers say.
ordered_counts <- function(one, item) round(one$answered[item] * diff(c(0, stats::pnorm(one$thresholds[[item]]), 1)))
