#' Convergent and discriminant validity
#'
#' Do the items of a factor belong together, and can the factors be told apart? One table as
#' papers print it, and one that says of each failure what is usually done about it.
#'
#' @param x A result of [sw_confirm()], or a survey.
#' @param structure For a survey: a [sw_structure()]; by default the codebook's subscales.
#' @param replicates Resamples behind the intervals of the heterotrait-monotrait ratio; 0 for
#'   none. They need complete answers.
#' @param geometric Geometric means in that ratio?
#' @param level Level of its intervals, and of those of the correlations in `outside`.
#' @param outside Columns of the data with which the scores of the factors are correlated
#'   (criterion validity), as a named vector of expected signs: `c(age = "+", hours = "-")`.
#' @param corrected Correct those correlations for the unreliability of the scale score?
#' @param seed Seed of the resamples.
#' @param limits Bounds that judge, from [sw_limits()].
#' @return A `sw_validity` with the tables
#'   * `factors`: items, alpha, composite reliability, maximal reliability (Hancock &
#'     Mueller, 2001), AVE (Fornell & Larcker, 1981), largest and mean squared correlation with
#'     other factors (`msv`, `asv`), verdicts;
#'   * `matrix`: correlations of factors, the root of AVE on the diagonal;
#'   * `pairs`: for each two factors the correlation with its interval, HTMT with its bootstrap
#'     interval (Henseler, Ringle & Sarstedt, 2015; of absolute correlations, Ringle, Sarstedt,
#'     Sinkovics & Sinkovics, 2023), whether each root of AVE
#'     exceeds the correlation, the test that the two are one (all their items under one
#'     factor; where the structure fixes or equates parameters, the same by equal ones), and the
#'     smaller AVE less the squared correlation (`ave_excess`) with the p of its being zero
#'     (delta method);
#'   * `failures`: what misses a bound, and the usual remedies;
#'   * `items`: standardised loading, its reading in the light of AVE, AVE and composite
#'     reliability without the item, variance inflation, and the item's correlation with every
#'     subscale's score (its own without it);
#'   * `higher`, for second-order structures; `outside`, if asked.
#' @section Errors: `scalewort_error_input` for other things than confirmations or surveys,
#'   or a confirmation that may not be believed.
#' @examples
#' survey <- sw_demo("plotholders")
#' sw_validity(survey, replicates = 200)
#' @export
sw_validity <- function(x, structure = NULL, replicates = 1000, geometric = FALSE, level = .95, outside = NULL, corrected = FALSE, seed = 1,
                        limits = sw_limits()) {
  x <- as_survey_or_moments(x)
  check_class(x, c("sw_confirmation", "sw_survey"), "x", "`sw_confirm()` or `sw_survey()`")
  check_options("validity")
  if (has_answers(x)) x <- sw_confirm(x, structure, limits = limits)
  if (x$about$status != "ok") stop_input(message_of("e_confirmation_may_not_believed"), faults = x$notes[1])
  measures <- validity_measures(x, geometric)
  factors <- validity_factors(x, measures, limits)
  pairs <- validity_pairs(x, measures, replicates, geometric, level, seed, limits)
  items <- validity_items(x, measures, limits)
  tables <- list(
    factors = factors, matrix = larcker_matrix(measures), pairs = pairs, failures = validity_failures(factors, pairs, items, limits), items = items
  )
  tables$higher <- higher_validity(x, limits)
  named <- paste(pairs$factor, "and", pairs$with, recycle0 = TRUE)
  tables$verdicts <- ranked_verdicts(
    verdict_rows("pair", named, judge(pairs$htmt, limits, "htmt", pairs$htmt_low, pairs$htmt_high)),
    if (nrow(pairs) > 0) verdict_rows("pair", named, correlation_verdicts(pairs, limits)),
    verdict_rows("factor", factors$factor, judge(factors$composite_reliability, limits, "composite_reliability", factors$reliability_low,
      factors$reliability_high)),
    verdict_rows("factor", factors$factor, judge(factors$ave, limits, "ave", factors$ave_low, factors$ave_high,
      two_answer_reason(x$parts$structure, x$parts$keying)))
  )
  if (!is.null(outside)) tables$outside <- outside_correlations(x, measures, outside, corrected, level)
  new_result("sw_validity", "title_validity",
    tables = Filter(Negate(is.null), tables), notes = c(validity_notes(x, pairs, replicates), repeated_items_note(tables$items)), n = x$about$n,
    n_left_out = x$about$n_left_out,
    missing = x$about$missing, options = list(replicates = replicates, level = level, geometric = geometric, seed = seed), limits = limits
  )
}

# list(r: correlations of items; blocks; loadings: list by factor; phi: of factors;
# reliability: rows of the confirmation's table).
validity_measures <- function(x, geometric) {
  structure <- x$parts$structure
  items <- rownames(x$parts$observed)
  r <- stats::cov2cor(x$parts$observed)
  rows <- x$tables$loadings
  loadings <- lapply(names(structure$factors), function(f) {
    own <- rows[rows$factor == f & rows$item %in% items, ]
    stats::setNames(own$standardised, own$item)
  })
  names(loadings) <- names(structure$factors)
  # An item of several factors stands with the one it loads on most.
  home <- vapply(items, function(i) {
    size <- vapply(loadings, function(l) if (i %in% names(l)) abs(l[[i]]) else 0, 0)
    names(loadings)[which.max(size)]
  }, "")
  spread <- core_factor_covariance(x$parts$matrices)
  phi <- stats::cov2cor(spread)[seq_along(loadings), seq_along(loadings), drop = FALSE]
  dimnames(phi) <- list(names(loadings), names(loadings))
  blocks <- lapply(names(loadings), function(f) which(home == f))
  names(blocks) <- names(loadings)
  list(r = r, blocks = Filter(length, blocks), loadings = loadings, phi = phi, home = home, htmt = core_htmt(r, Filter(length, blocks), geometric))
}

validity_factors <- function(x, m, limits) {
  reliability <- x$tables$reliability
  squared <- m$phi^2
  diag(squared) <- NA
  several <- ncol(squared) > 1
  s <- x$parts$observed
  msv <- if (several) apply(squared, 1, max, na.rm = TRUE) else NA_real_
  judged_table(verdict_reliability = "composite_reliability", verdict_ave = "ave", table = plain_table(
    factor = reliability$factor, items = reliability$items,
    alpha = vapply(m$loadings, function(l) if (length(l) > 1) core_alpha(s[names(l), names(l)]) else NA_real_, 0, USE.NAMES = FALSE),
    composite_reliability = reliability$composite_reliability, reliability_low = reliability$reliability_low,
    reliability_high = reliability$reliability_high,
    maximal_reliability = vapply(m$loadings, core_maximal_reliability, 0, USE.NAMES = FALSE), ave = reliability$ave,
    ave_low = reliability$ave_low, ave_high = reliability$ave_high, msv = unname(msv),
    asv = unname(if (several) rowMeans(squared, na.rm = TRUE) else NA_real_),
    verdict_reliability = judge_code(reliability$composite_reliability, limits, "composite_reliability",
      reliability$reliability_low, reliability$reliability_high),
    verdict_ave = judge_code(reliability$ave, limits, "ave", reliability$ave_low, reliability$ave_high,
      two_answer_reason(x$parts$structure, x$parts$keying)),
    told_apart = ifelse(is.na(msv), NA_character_, unname(ifelse(reliability$ave > msv, "yes",
      "no: shares more with another factor than with its items")))
  ))
}

larcker_matrix <- function(m) {
  out <- m$phi
  diag(out) <- sqrt(vapply(m$loadings, core_variance_extracted, 0))
  out[upper.tri(out)] <- NA
  matrix_table(out, "factor")
}

validity_pairs <- function(x, m, replicates, geometric, level, seed, limits) {
  if (length(m$loadings) < 2) {
    return(plain_table(factor = character(), with = character(), correlation = numeric(), htmt = numeric(), htmt_low = numeric(),
      htmt_high = numeric(), verdict = character(), verdict_r = character(), root_above = character(), p.value = numeric(), ave_excess = numeric(),
      ave_excess_p = numeric()))
  }
  at <- which(lower.tri(m$phi), arr.ind = TRUE)
  first <- colnames(m$phi)[at[, 2]]
  second <- rownames(m$phi)[at[, 1]]
  links <- x$tables$factor_correlations
  link <- match(paste(first, second), paste(links$factor, links$with))
  root <- sqrt(vapply(m$loadings, core_variance_extracted, 0))
  ratio <- mapply(function(a, b) if (all(c(a, b) %in% names(m$blocks))) m$htmt[a, b] else NA_real_, first, second, USE.NAMES = FALSE)
  bounds <- htmt_bounds(x, m, first, second, replicates, geometric, level, seed)
  tests <- lapply(seq_along(first), function(i) one_factor_test(x, first[i], second[i]))
  excess <- ave_excesses(x, m, first, second)
  r <- m$phi[at]
  judged_table(verdict = "htmt", verdict_r = "factor_r", table = plain_table(
    factor = first, with = second, correlation = r, conf.low = links$conf.low[link], conf.high = links$conf.high[link], htmt = ratio,
    htmt_low = bounds$low, htmt_high = bounds$high, verdict = judge_code(ratio, limits, "htmt", bounds$low, bounds$high),
    verdict_r = correlation_verdicts(plain_table(correlation = r, conf.low = links$conf.low[link], conf.high = links$conf.high[link]),
      limits)$code,
    root_above = unname(ifelse(pmin(root[first], root[second]) > abs(r), "yes", "no")), statistic = vapply(tests, `[[`, 0, "statistic"),
    df = vapply(tests, `[[`, 0, "df"), p.value = vapply(tests, `[[`, 0, "p"), ave_excess = excess[1, ], ave_excess_p = excess[2, ]
  ))
}

# The smaller AVE of each two factors less their squared correlation, and its p.
ave_excesses <- function(x, m, first, second) {
  cells <- x$parts$cells
  items <- rownames(x$parts$observed)
  factors <- structure_factor_names(x$parts$structure)
  covariance <- x$parts$estimates_covariance
  at <- core_standardised(cells, x$parts$theta, length(items), length(factors), covariance, !is.null(x$parts$quadratic))
  shared <- vapply(m$loadings, core_variance_extracted, 0)
  mapply(function(a, b) {
    pair <- match(c(a, b), factors)
    link <- which(cells$part == core_parts[["factor"]] & cells$row == max(pair) & cells$column == min(pair))
    if (length(link) == 0) {
      return(c(NA_real_, NA_real_))
    }
    less <- if (shared[[a]] <= shared[[b]]) a else b
    own <- which(cells$part == core_parts[["loading"]] & cells$column == match(less, factors))
    found <- core_ave_excess(at, own, link, covariance)
    c(found[["difference"]], 2 * stats::pnorm(-abs(found[["difference"]] / found[["error"]])))
  }, first, second)
}

# Are two factors one? Their items under one factor (a correlation of 1, and the same
# correlations with all others) against two; where the structure says more about its parameters,
# the same by equal parameters.
one_factor_test <- function(x, first, second) {
  nothing <- list(statistic = NA_real_, df = NA_real_, p = NA_real_)
  joined <- joined_structure(x, first, second)
  if (is.null(joined)) {
    return(nothing)
  }
  source <- if (is.null(x$parts$source)) sample_moments(x, joined) else survey_behind(x)
  one <- tryCatch(
    confirm_again(x, source, joined, bare = TRUE),
    scalewort_error = function(e) NULL
  )
  if (is.null(one) || one$about$status != "ok") {
    return(nothing)
  }
  test <- chi_square_difference(one$parts, x$parts)
  list(statistic = test$statistic, df = one$parts$figures$df - x$parts$figures$df, p = test$p)
}

joined_structure <- function(x, first, second) {
  structure <- x$parts$structure
  below <- unlist(structure$higher, use.names = FALSE)
  apart <- any(vapply(structure$unlinked, setequal, TRUE, c(first, second)))
  if (any(c(first, second) %in% below) || apart) {
    return(NULL)
  }
  stated <- list(structure$higher, structure$unlinked, structure$fixed, structure$equal, structure$bounds)
  if (any(lengths(stated) > 0) || !is.null(structure$means)) {
    return(held_together(x, structure, first, second))
  }
  structure$factors[[first]] <- union(structure$factors[[first]], structure$factors[[second]])
  structure$factors[[second]] <- NULL
  structure
}

# A correlation of 1, and the same correlations with each other factor linked to both; NULL where
# the structure has said something else of these already, or the correlation is negative.
held_together <- function(x, structure, first, second) {
  links <- x$tables$factor_correlations
  linked <- function(a, b) links$correlation[links$factor %in% c(a, b) & links$with %in% c(a, b)]
  if (!isTRUE(linked(first, second) > 0)) {
    return(NULL)
  }
  tryCatch({
    out <- sw_fix(structure, first, second, value = 1)
    for (other in setdiff(structure_factor_names(structure), c(first, second))) {
      if (length(linked(first, other)) == 1 && length(linked(second, other)) == 1) out <- sw_equate(out, c(first, other), c(second, other))
    }
    out
  }, scalewort_error = function(e) NULL)
}

validity_items <- function(x, m, limits) {
  scores <- vapply(m$blocks, function(b) rowSums(m$r[, b, drop = FALSE]), numeric(ncol(m$r)))
  sd_of <- vapply(m$blocks, function(b) sqrt(sum(m$r[b, b])), 0)
  out <- do.call(rbind, lapply(names(m$loadings), function(f) {
    l <- m$loadings[[f]]
    whole <- core_loading_reliability(l)
    items <- names(l)
    at <- match(items, colnames(m$r))
    raw <- l * sqrt(diag(x$parts$implied)[at])
    residual <- x$parts$matrices$residual[at, at, drop = FALSE]
    without <- vapply(seq_along(l), function(i) {
      if (length(l) > 2) c(core_sum_reliability(raw[-i], residual[-i, -i]), mean(l[-i]^2)) else c(NA_real_, NA_real_)
    }, numeric(2))
    block <- m$blocks[[f]]
    plain_table(
      factor = f, item = items, loading = unname(l), reading = loading_readings(l, whole["ave"], without, limits),
      ave_without = without[2, ], reliability_without = without[1, ],
      vif = core_inflation(m$r[items, items, drop = FALSE])
    )
  }))
  cross <- vapply(names(m$blocks), function(f) {
    vapply(out$item, function(i) {
      own <- match(i, colnames(m$r))
      block <- m$blocks[[f]]
      left <- setdiff(block, own)
      if (length(left) == 0) NA_real_ else sum(m$r[own, left]) / sqrt(sum(m$r[left, left]))
    }, 0)
  }, numeric(nrow(out)))
  plain_frame(cbind(out, stats::setNames(as.data.frame(cross), paste0("with_", names(m$blocks)))))
}

# Keep at .708; between .40 and .708 keep while AVE is reached, and drop only where that helps.
loading_readings <- function(loading, ave, without, limits) {
  rule <- limit(limits, "standard_loading")
  bound <- limit(limits, "ave")$bound
  helps <- without[2, ] >= bound & ave < bound
  ifelse(abs(loading) >= rule$better, "keep", ifelse(abs(loading) < rule$bound, "weak: a candidate to drop, if its content allows",
    ifelse(ave >= bound, "keep: AVE is reached with it", ifelse(helps %in% TRUE, "AVE is reached without it",
      "keep: dropping it alone does not reach AVE"))))
}

validity_failures <- function(factors, pairs, items, limits) {
  row <- function(where, what, advice) plain_table(where = where, what = what, advice = advice)
  low <- function(verdict) which(verdict %in% "missed")
  mixed <- which(pairs$verdict %in% "missed" | pairs$verdict_r %in% "missed")
  thin <- low(factors$verdict_ave)
  # More than chance: the excess of AVE over the squared correlation is surely below zero.
  short <- pairs[which(pairs$ave_excess < 0 & pairs$ave_excess_p < .05), ]
  shared <- which(startsWith(factors$told_apart, "no") & factors$factor %in% c(short$factor, short$with))
  out <- c(
    lapply(low(factors$verdict_reliability), function(i) {
      row(factors$factor[i], paste0("composite reliability ", coefficient_text(factors$composite_reliability[i])),
        "add items of the kind; mind the error left in scores")
    }),
    lapply(thin, function(i) {
      row(factors$factor[i], paste0("AVE ", coefficient_text(factors$ave[i])), paste0("weakest: ", weakest_item(items, factors$factor[i]),
        "; its items hold more error than they share: reword the weak ones"))
    }),
    lapply(shared, function(i) {
      row(factors$factor[i], "shares more with another factor than with its items", "join the two, move a shared item, or put a factor above")
    }),
    lapply(mixed, function(i) {
      row(paste(pairs$factor[i], "and", pairs$with[i]), paste0("r ", coefficient_text(pairs$correlation[i]), ", HTMT ",
        coefficient_text(pairs$htmt[i])),
        "look for items that speak of both; try one factor")
    })
  )
  if (length(out) == 0) {
    return(plain_table(where = character(), what = character(), advice = character()))
  }
  do.call(rbind, out)
}

weakest_item <- function(items, factor) {
  own <- items[items$factor == factor, ]
  own$item[which.min(abs(own$loading))]
}

# Second-order factors from the loadings of the factors below them; HTMT of dimensions is read
# with the wider bound.
higher_validity <- function(x, limits) {
  higher <- x$parts$structure$higher
  if (length(higher) == 0) {
    return(NULL)
  }
  rows <- x$tables$loadings
  lapply(names(higher), function(f) {
    l <- rows$standardised[rows$factor == f & rows$item %in% higher[[f]]]
    found <- core_loading_reliability(l)
    plain_table(
      factor = f, dimensions = length(l), composite_reliability = found[["reliability"]], ave = found[["ave"]],
      verdict_reliability = judge_code(found[["reliability"]], limits, "composite_reliability"),
      verdict_ave = judge_code(found[["ave"]], limits, "ave")
    )
  }) |> do.call(what = rbind) |> judged_table(verdict_reliability = "composite_reliability", verdict_ave = "ave")
}

outside_correlations <- function(x, m, outside, corrected, level) {
  survey <- survey_behind(x)
  if (is.null(survey)) stop_input(message_of("e_outside_needs_confirmation"))
  if (!is.character(outside) || is.null(names(outside)) || !all(outside %in% c("+", "-", "0"))) {
    stop_input(message_of("e_outside_named_vector"), hint = message_of("e_signs"))
  }
  check_names_known(names(outside), source_names(survey), "outside", "column")
  answers <- source_rows(survey, colnames(m$r))
  reliability <- stats::setNames(x$tables$reliability$composite_reliability, x$tables$reliability$factor)
  place <- expand.grid(factor = names(m$blocks), variable = names(outside), stringsAsFactors = FALSE)
  do.call(rbind, lapply(seq_len(nrow(place)), function(i) {
    score <- rowMeans(answers[, m$blocks[[place$factor[i]]], drop = FALSE])
    other <- suppressWarnings(as.numeric(source_column(survey, place$variable[i])))
    use <- is.finite(score) & is.finite(other)
    if (sum(use) < 4 || stats::sd(other[use]) == 0) stop_input(message_of("e_column_holds_no", variable = place$variable[i]))
    r <- stats::cor(score[use], other[use])
    width <- core_normal_edge(level) / sqrt(sum(use) - 3)
    shrink <- if (corrected) sqrt(reliability[[place$factor[i]]]) else 1
    expected <- outside[[place$variable[i]]]
    ends <- tanh(atanh(r) + c(-1, 1) * width)
    agrees <- if (expected == "0") ends[1] <= 0 && ends[2] >= 0 else if (expected == "+") ends[1] > 0 else ends[2] < 0
    plain_table(
      factor = place$factor[i], variable = place$variable[i], expected = expected, n = sum(use), correlation = r / shrink,
        conf.low = ends[1] / shrink,
      conf.high = ends[2] / shrink, agrees = if (agrees) "yes" else if (expected != "0" &&
        sign(r) == (if (expected == "+") 1 else -1)) "unclear" else "no"
    )
  }))
}

repeated_items_note <- function(items) {
  repeated <- items$item[is.na(items$vif)]
  if (length(repeated) > 0) note("repeated_items", message_of("no_inflation", items = repeated), repeated)
}

validity_notes <- function(x, pairs, replicates) {
  source <- survey_behind(x)
  complete <- if (is.null(source)) 0 else complete_count(source, rownames(x$parts$observed))
  c(
    if (any(!meets(x$tables$reliability$ave, x$limits, "ave") & !x$tables$reliability$verdict_ave %in% "untested"))
      note("strict_ave", message_of("strict_ave", bound = limit(x$limits, "ave")$bound), rank = 3L),
    note("explored_cases", said_in_notes(x$noted)[x$noted$code == "explored_cases"], list(""), rank = 1L),
    if (any(!is.na(pairs$htmt_low)) && complete < x$about$n && !x$about$options$missing %in% c("fiml", "imputed") &&
      !startsWith(x$about$options$estimator, "ordinal"))
      note("complete_intervals", message_of("htmt_intervals_complete", cases = complete), n = complete, rank = 3L),
    if (nrow(pairs) > 0 && replicates >= 20 && all(is.na(pairs$htmt_low)))
      note("no_intervals", if (is.null(source)) message_of("htmt_needs_answers") else
        if (complete < 20) message_of("htmt_needs_twenty", cases = complete) else message_of("htmt_no_spread"), rank = 3L),
    if (any(is.na(pairs$p.value) & !is.na(pairs$correlation))) note("no_test", message_of("one_factor_not_tested"), rank = 3L)
  )
}
