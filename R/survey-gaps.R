# Missing answers: how they are treated, and moments of everybody who answered anything.

# The treatment that "auto" stands for: complete cases where nobody misses anything, else likelihood; each pair by those who
# answered both where correlations are not Pearson's.
resolved_missing <- function(survey, items, missing, correlation = "pearson") {
  if (missing == "fiml" && correlation != "pearson") {
    stop_input(message_of("e_missing_fiml_pearson", correlation = correlation), hint = message_of("e_take_pairwise_listwise"))
  }
  if (!missing %in% c("auto", "fiml")) {
    return(missing)
  }
  if (!misses_any(survey, items)) {
    return("listwise")
  }
  if (missing == "auto" && correlation != "spearman" && has_imputations(survey, items)) {
    return("imputed")
  }
  if (correlation == "pearson") "fiml" else "pairwise"
}

# Does anyone in use miss an answer to one of the items?
misses_any <- function(x, items) {
  has_answers(x) && !all(source_count(x, items)$missing %in% 0)
}

# Moments by likelihood of everybody who answered one of the items, with what says how sure they are: list(status, n, mean,
# covariance (divisor n - 1), and with `spread` gamma: n times the covariance matrix of the covariances). also: columns that make gaps random
# given them, beside the items while the likelihood is found.
likelihood_moments <- function(survey, items, also = NULL, spread = FALSE) {
  if (!gives_rows(survey, c(items, items_beside(survey, items), also))) {
    return(likelihood_of_patterns(survey, items, also, spread))
  }
  sample <- likelihood_sample(survey, items, also)
  found <- moments_by_likelihood(sample$answers, length(items), sample$weight, sample$cluster, spread)
  if (found$status == "ok" || length(sample$beside) == 0) {
    return(found)
  }
  sample <- likelihood_sample(survey, items, also, character())
  moments_by_likelihood(sample$answers, length(items), sample$weight, sample$cluster, spread)
}

# list(answers: cases x (items and helping columns), weight of mean one, cluster) of those who answered one of the items, or of the survey's
# other items, which help, so that a subscale's figures do not hang on what else is looked at.
likelihood_sample <- function(survey, items, also = NULL, beside = items_beside(survey, items)) {
  answers <- source_rows(survey, c(items, beside))
  some <- rowSums(!is.na(answers)) > 0
  helping <- helping_columns(survey, setdiff(also, c(items, beside)))
  list(beside = beside, answers = cbind(answers, helping)[some, , drop = FALSE], weight = survey_weight(survey, some),
    cluster = survey_cluster(survey, some))
}

# The survey's other scored items, where they are not too many and vary.
items_beside <- function(survey, items) {
  all <- if (is.null(survey$whole)) scored_items(survey) else survey$whole
  other <- setdiff(all, items)
  if (length(other) + length(items) > most_by_likelihood) {
    return(character())
  }
  other[vapply(other, function(item) sum(source_tally(survey, item)$counts > 0) > 1, TRUE)]
}

# Items whose likelihood is worked out together.
most_by_likelihood <- 40

# The same from patterns of missing answers, where single answers cannot be had at once. Where people stay in the database gamma is that of
# normal answers.
likelihood_of_patterns <- function(survey, items, also = NULL, spread = FALSE, beside = items_beside(survey, items)) {
  if (length(also) > 0) stop_input(message_of("e_helping_columns_also"), hint = message_of("e_leave_also_out"))
  both <- c(items, beside)
  found <- designed_patterns(survey, both)
  withheld <- attr(found$patterns, "withheld")
  if (isTRUE(withheld > 0)) {
    return(list(status = "withheld", n = withheld))
  }
  n <- found$n
  em <- core_em_patterns(found$patterns, both)
  if (em$status != "ok" && length(beside) > 0) {
    return(likelihood_of_patterns(survey, items, also, spread, character()))
  }
  own <- seq_along(items)
  out <- list(status = em$status, n = n, mean = em$mean[own], covariance = em$covariance[own, own, drop = FALSE] * n / (n - 1))
  if (em$status == "ok" && core_definiteness(core_correlation(out$covariance)) < 1e-10) out$status <- "not_positive_definite"
  if (!spread || out$status != "ok") {
    return(out)
  }
  normal <- is.null(survey$weight) && is.null(survey$cluster) && near_normal_tallied(survey, items)
  by_rows <- !normal && goes_by_rows(survey)
  gamma <- if (by_rows) core_gamma_by_rows(designed_rows(survey, both, mean_weight = found$mean_weight), em, found$patterns, n) else
    core_observed_gamma(em, found$patterns)
  if (!is.null(gamma)) out$gamma <- core_gamma_of(gamma, length(both), own)
  out
}

# Are there patterns of missing answers too rare for a table that withholds figures of few people? Likelihood would leave these people out.
withholds_patterns <- function(survey, items) {
  inherits(survey$source, "sums_source") && isTRUE(attr(source_patterns(survey, items), "withheld") > 0)
}

# How many people answered both of each two items, as core_pair_count() counts.
pairs_of_patterns <- function(patterns, p) {
  both <- Reduce(`+`, lapply(patterns, function(one) one$n * tcrossprod(seq_len(p) %in% one$seen)))
  1 / mean(1 / both[lower.tri(both)])
}

complete_sample_rows <- function(sample) {
  full <- stats::complete.cases(sample$answers)
  list(answers = sample$answers[full, , drop = FALSE], weight = sample$weight[full], cluster = sample$cluster[full])
}

# answers: of people who answered one of the first `count` columns. Of near normal ones gamma comes from the observed
# information, of others, and of people in clusters or with weights, from the influence of each.
moments_by_likelihood <- function(answers, count, weight = NULL, cluster = NULL, spread = FALSE) {
  n <- nrow(answers)
  own <- seq_len(count)
  em <- core_em(answers, weight)
  out <- moments_of_em(em, n, own)
  if (spread && out$status == "ok") {
    patterns <- core_answer_patterns(answers, weight)
    plain <- is.null(weight) && is.null(cluster) && near_normal(answers[, own, drop = FALSE])
    gamma <- if (plain) core_observed_gamma(em, patterns) else
      core_free_gamma(answers, em, patterns, if (is.null(weight)) rep(1, n) else weight, cluster)
    if (!is.null(gamma)) out$gamma <- core_gamma_of(gamma, ncol(answers), own)
  }
  out
}

moments_of_em <- function(em, n, own) {
  out <- list(status = em$status, n = n, mean = em$mean[own], covariance = em$covariance[own, own, drop = FALSE] * n / (n - 1))
  if (em$status == "ok" && core_definiteness(core_correlation(out$covariance)) < 1e-10) out$status <- "not_positive_definite"
  out
}

# Moments of items without the people of each group in turn, who are too many to be held at once: list of list(status, n, mean, covariance);
# complete: of complete cases, else by likelihood with the items beside them. NULL where there are too many patterns.
moments_without_by_rows <- function(survey, items, complete, groups, seed) {
  beside <- if (!complete) items_beside(survey, items)
  without <- patterns_without(survey, c(items, beside), groups, seed)
  if (is.null(without)) {
    return(NULL)
  }
  own <- seq_along(items)
  moments_of <- function(n, found) {
    covariance <- found$covariance[own, own, drop = FALSE] * n / (n - 1)
    list(status = found$status, n = n, mean = found$mean[own], covariance = `dimnames<-`(covariance, list(items, items)))
  }
  lapply(without, function(patterns) {
    if (!complete) {
      return(moments_of(sum(vapply(patterns, `[[`, 0, "n")), core_em_patterns(patterns, c(items, beside))))
    }
    whole <- Filter(function(one) length(one$seen) == length(items), patterns)
    if (length(whole) == 0) list(status = "too_few_cases") else moments_of(whole[[1]]$n, c(list(status = "ok"), whole[[1]]))
  })
}

# The same of the first `count` columns without the people of each group in turn; of: everyone's group, 1, ..., groups.
moments_without <- function(people, count, of, groups) {
  if (!anyNA(people$answers)) {
    return(core_moments_without(people$answers[, seq_len(count), drop = FALSE], of, groups, people$weight))
  }
  all <- core_em(people$answers, people$weight)
  if (all$status != "ok") {
    return(rep(list(all["status"]), groups))
  }
  fits <- core_em_without(people$answers, of, groups, all, people$weight)
  Map(moments_of_em, fits, nrow(people$answers) - tabulate(of, groups), MoreArgs = list(own = seq_len(count)))
}

# Are answers near normal: mean absolute skewness of the items at most .5, mean excess kurtosis at most 1?
near_normal <- function(answers) near_normal_powers(power_sums(answers, colMeans(answers, na.rm = TRUE)))

# Of those who answered all of the items, whose means these are.
near_normal_complete <- function(survey, items, mean) {
  counted <- all(lengths(lapply(items, function(item) item_options(item_spec(survey, item)))) > 0)
  if (counted && all(source_count(survey, items)$missing %in% 0)) {
    return(near_normal_tallied(survey, items))
  }
  parts <- source_by_rows(survey, items, function(rows, ...) power_sums(rows[stats::complete.cases(rows), , drop = FALSE], mean))
  near_normal_powers(Reduce(`+`, parts))
}

# Of each column the number of answers, and the sums of their distances from the mean to the powers of two, three and four.
power_sums <- function(answers, mean) {
  sums <- vapply(seq_len(ncol(answers)), function(j) {
    d <- answers[, j] - mean[j]
    # Products are much quicker than powers.
    squared <- d * d
    c(n = sum(!is.na(d)), second = sum(squared, na.rm = TRUE), third = sum(squared * d, na.rm = TRUE), fourth = sum(squared * squared, na.rm = TRUE))
  }, c(n = 0, second = 0, third = 0, fourth = 0))
  `colnames<-`(sums, colnames(answers))
}

near_normal_powers <- function(sums) {
  mean_of <- sums[-1, , drop = FALSE] / rep(sums["n", ], each = 3)
  # An item that does not vary tells nothing of its shape.
  shape <- mean_of[, (mean_of["second", ] > 0) %in% TRUE, drop = FALSE]
  mean(abs(shape["third", ] / shape["second", ]^1.5)) <= .5 && mean(shape["fourth", ] / shape["second", ]^2) - 3 <= 1
}

# Numbers that stand for helping columns: numeric ones and items as they are; of others an indicator of each value but the most
# frequent.
helping_columns <- function(survey, also) {
  if (length(also) == 0) {
    return(NULL)
  }
  check_names_known(also, source_names(survey), "also", "column")
  of_items <- intersect(also, analysed_items(survey))
  parts <- lapply(also, function(column) {
    if (column %in% of_items) {
      return(source_rows(survey, column))
    }
    values <- source_column(survey, column)
    if (is.numeric(values)) {
      return(matrix(as.numeric(values), dimnames = list(NULL, column)))
    }
    values <- trimws(as.character(values))
    values[values == ""] <- NA
    count <- sort(table(values), decreasing = TRUE)
    if (length(count) < 2) stop_input(message_of("e_column_also_one", column = column))
    if (length(count) > 12) stop_input(message_of("e_column_also_different", column = column, count = length(count)))
    levels <- names(count)[-1]
    matrix(outer(values, levels, `==`) + 0, length(values), dimnames = list(NULL, paste0(column, " ", levels)))
  })
  out <- do.call(cbind, parts)
  out[, apply(out, 2, function(x) isTRUE(stats::sd(x, na.rm = TRUE) > 0)), drop = FALSE]
}
