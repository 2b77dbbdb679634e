#' Compare rival confirmations, or the factors of two explorations
#'
#' Puts fits of several structures to the same answers side by side, and tests those that
#' are nested. Whether two structures are nested is found out, not taken on trust: the
#' freer one must reproduce what the stricter one implies (Bentler & Satorra, 2010).
#'
#' Of two explorations the factors of the second are matched, and turned, to those of the first, and compared
#' by the coefficient of congruence (Burt, 1948; Tucker, 1951), the cosine between two
#' columns of loadings. `sw_congruence()` is the former name of this.
#'
#' @param ... Two or more results of [sw_confirm()] on the same items and cases, by name
#'   (`one = , four = `) or not. Or two results of [sw_explore()], or matrices of loadings (items x factors), on the
#'   same items; of items that only one has nothing is used.
#' @param turn Turn the second of two explorations rigidly as near as possible to the first (Schönemann, 1966)? For
#'   solutions of different rotation.
#' @param limits Bounds that judge, from [sw_limits()].
#' @return A `sw_comparison` with the tables
#'   * `models`: chi-square, df, p, CFI, TLI, RMSEA, SRMR, AIC, BIC, and each model's share
#'     of the weight of evidence by AIC and by BIC (Burnham & Anderson, 2002), strictest
#'     model first;
#'   * `tests`: for each pair, stricter and freer: nested or not, difference of chi-squares
#'     (for `"robust"` the scaled one of Satorra & Bentler, 2001), df, p, changes of CFI and
#'     RMSEA, in words;
#'   * `vuong`: for pairs that are not nested, from single answers by `"ml"` or `"robust"`, the
#'     difference of log-likelihoods with the correction of BIC, its z and p (Vuong, 1989).
#'
#'   Of two explorations a tibble: `factor` of the first, `matched` factor of the second, `congruence` from -1 to 1
#'   (positive after turning), `items` compared, `verdict`. `conf.low` and `conf.high` are a 95% interval
#'   from 100 pairs of samples of the two solutions' correlations at their numbers of people, moved so that its middle is the
#'   congruence found (chance alone makes samples less alike), and the verdict holds it against the bounds. Of matrices there is no
#'   interval.
#' @section Errors: `scalewort_error_input` for other things than confirmations, different
#'   items or cases, or different estimators; for explorations with a different number of factors, or fewer than three items in common.
#' @examples
#' survey <- sw_demo("plotholders")
#' plain <- sw_structure(survey)
#' sw_compare(
#'   one = sw_confirm(survey, sw_structure(all = unlist(plain$factors))),
#'   four = sw_confirm(survey, plain),
#'   pair = sw_confirm(survey, sw_add_pair(plain, "craft5", "craft6"))
#' )
#' halves <- sw_split(survey)
#' sw_compare(sw_explore(halves$calibration, 4), sw_explore(halves$validation, 4))
#' @export
sw_compare <- function(..., turn = FALSE, limits = sw_limits()) {
  models <- list(...)
  check_options("compare")
  if (length(models) == 2 && any(vapply(models, function(x) is.matrix(x) || inherits(x, "sw_exploration"), TRUE))) {
    return(congruence_table(models[[1]], models[[2]], turn, limits))
  }
  check_comparable(models)
  if (is.null(names(models))) names(models) <- rep("", length(models))
  blank <- names(models) == ""
  names(models)[blank] <- paste0("model ", which(blank))
  models <- models[order(-vapply(models, function(x) x$parts$figures$df, 0))]
  table <- rival_table(models)
  tests <- do.call(rbind, utils::combn(names(models), 2, function(two) rival_test(models[two], limits), simplify = FALSE))
  first <- models[[1]]
  new_result("sw_comparison", "title_comparison",
    tables = c(list(models = table, tests = tests),
      if (any(tests$nested == "no") && has_cases(models)) list(vuong = vuong_table(models, tests, limits))),
    notes = comparison_notes(models), n = first$about$n, n_left_out = first$about$n_left_out,
    missing = first$about$missing, options = list(estimator = first$about$options$estimator), parts = list(models = models,
      decision = rival_decision(models, table, tests, limits)),
    limits = limits
  )
}

#' @rdname sw_compare
#' @param x,y Two explorations or matrices of loadings.
#' @export
sw_congruence <- function(x, y, turn = FALSE) {
  tell_former(message_of("former_name", old = "sw_congruence()", new = "sw_compare()"))
  sw_compare(x, y, turn = turn)
}

check_comparable <- function(models) {
  if (length(models) < 2 || !all(vapply(models, inherits, TRUE, what = "sw_confirmation"))) {
    stop_input(message_of("e_sw_compare_takes"), hint = message_of("e_make_them_sw"))
  }
  estimators <- vapply(models, function(x) x$about$options$estimator, "")
  samples <- lapply(models, function(x) x$parts$observed[order(rownames(x$parts$observed)), order(rownames(x$parts$observed))])
  same <- vapply(samples[-1], function(s) identical(dim(s), dim(samples[[1]])) && isTRUE(all.equal(s, samples[[1]], tolerance = 1e-10)), TRUE)
  faults <- c(
    if (!all(same)) "the models do not have the same items and the same cases",
    if (length(unique(estimators)) > 1) "the models have different estimators"
  )
  if (length(faults) > 0) stop_input(message_of("e_these_confirmations_cannot"), faults = faults)
}

rival_table <- function(models) {
  figure <- function(name) vapply(models, function(x) as.numeric(c(x$parts$figures[[name]], NA)[1]), 0, USE.NAMES = FALSE)
  weight <- function(criterion) {
    apart <- exp(-(criterion - min(criterion)) / 2)
    apart / sum(apart)
  }
  scaled <- !is.null(models[[1]]$parts$figures$scale)
  plain_table(
    model = names(models), chi_square = figure(if (scaled) "chi_square_scaled" else "chi_square"), df = figure("df"),
    p.value = figure(if (scaled) "p_scaled" else "p.value"), cfi = figure("cfi"), tli = figure("tli"), rmsea = figure("rmsea"), srmr = figure("srmr"),
    aic = figure("aic"), bic = figure("bic"), aic_weight = weight(figure("aic")), bic_weight = weight(figure("bic"))
  )
}

# One answer from all criteria: list(best, rival, code, misfit). The best by BIC (without one, the simplest that no freer one betters by its
# test) against the next: "better" where the test of the two says so, too, "open" where criteria disagree or the test sees nothing,
# "no_test" where the two have none, "untested" where one may not be believed. misfit: does every one of them miss a bound of fit?
rival_decision <- function(models, table, tests, limits) {
  believed <- vapply(models, function(x) x$about$status == "ok", TRUE)
  misfit <- all(vapply(models, function(x) any(x$tables$fit$verdict[x$tables$fit$figure %in% c("cfi", "rmsea", "srmr")] %in% "missed"), TRUE))
  if (sum(believed) < 2) {
    return(list(best = if (any(believed)) names(models)[believed] else NA_character_, rival = NA_character_, code = "untested", misfit = misfit))
  }
  known <- table[believed, ]
  if (anyNA(known$bic)) {
    # From the strictest on: a freer one is taken where its test is passed and CFI moves.
    best <- known$model[1]
    for (next_one in known$model[-1]) {
      row <- tests[tests$stricter == best & tests$freer == next_one, ]
      if (nrow(row) == 1 && isTRUE(meets(row$p.value, limits, "test_p")) && !meets(row$cfi_change, limits, "cfi_change")) best <- next_one
    }
    rival <- setdiff(known$model, best)[1]
  } else {
    order <- order(known$bic)
    best <- known$model[order[1]]
    rival <- known$model[order[2]]
  }
  row <- tests[tests$stricter %in% c(best, rival) & tests$freer %in% c(best, rival), ]
  list(best = best, rival = rival, code = pair_code(row, best, models, limits), misfit = misfit)
}

# Does the test of two rivals agree that `best` is better?
pair_code <- function(row, best, models, limits) {
  if (row$nested == "yes") {
    freer_wins <- isTRUE(meets(row$p.value, limits, "test_p"))
    return(if (is.na(row$p.value)) "no_test" else if ((row$freer == best) == freer_wins) "better" else "open")
  }
  two <- models[c(row$stricter, row$freer)]
  if (!has_cases(two)) {
    return("no_test")
  }
  test <- vuong_of(two)
  winner <- names(two)[if (isTRUE(test$statistic > 0)) 1 else 2]
  if (isTRUE(meets(test$p, limits, "test_p")) && winner == best) "better" else "open"
}

# Two models, the stricter first.
rival_test <- function(pair, limits) {
  strict <- pair[[1]]$parts
  free <- pair[[2]]$parts
  gained <- strict$figures$df - free$figures$df
  inside <- gained > 0 && is_nested(strict, free)
  believed <- all(vapply(pair, function(x) x$about$status == "ok", TRUE))
  test <- if (inside && believed) chi_square_difference(strict, free) else list(statistic = NA_real_, p = NA_real_)
  rise <- free$figures$cfi - strict$figures$cfi
  plain_table(
    stricter = names(pair)[1], freer = names(pair)[2], nested = if (inside) "yes" else "no", statistic = test$statistic,
    df = if (inside) gained else NA_real_, p.value = test$p, cfi_change = rise, rmsea_change = free$figures$rmsea - strict$figures$rmsea,
    says = rival_words(inside, believed, test, rise, names(pair), limits)
  )
}

# Does the freer structure reproduce what the stricter one implies?
is_nested <- function(strict, free) {
  items <- rownames(free$observed)
  at <- match(items, rownames(strict$observed))
  implied <- strict$implied[items, items]
  factors <- length(structure_factor_names(free$structure))
  if (!is.null(free$quadratic)) {
    weight <- 1 - diag(length(items))
    fit <- core_fit_least_squares(free$cells, implied, factors, weight, TRUE)
  } else {
    fit <- core_fit_structure(free$cells, implied, factors, mean = strict$implied_mean[at])
  }
  fit$status == "ok" && fit$discrepancy < 1e-7
}

# Difference of chi-squares of two nested fits: plain, scaled (Satorra & Bentler, 2001) or, for
# correlations, adjusted for mean and variance from both fits' weight matrices (Satorra, 2000;
# Asparouhov & Muthén, 2010).
chi_square_difference <- function(strict, free) {
  df <- strict$figures$df - free$figures$df
  difference <- strict$figures$chi_square - free$figures$chi_square
  if (!is.null(strict$quadratic)) {
    statistic <- core_adjusted_difference(strict$quadratic, free$quadratic, difference, df)
  } else {
    scale <- if (is.null(strict$figures$scale)) 1 else (strict$figures$df * strict$figures$scale - free$figures$df * free$figures$scale) / df
    # Where one of the fits has no scaled test the difference has none either.
    statistic <- if (isTRUE(scale > 0)) max(difference, 0) / scale else NA_real_
  }
  list(statistic = statistic, p = if (is.na(statistic)) NA_real_ else core_chi_square_p(statistic, df))
}

rival_words <- function(nested, believed, test, rise, names, limits) {
  if (!believed) {
    return("not tested: one of them did not converge or is improper")
  }
  if (!nested) {
    return("not nested: compare AIC and BIC")
  }
  if (is.na(test$p)) {
    return("the scaled difference does not exist here")
  }
  worse <- meets(test$p, limits, "test_p")
  noticeable <- !meets(rise, limits, "cfi_change")
  if (worse && noticeable) {
    paste(quoted(names[2]), "fits better")
  } else if (worse) {
    paste(quoted(names[2]), "fits better, but CFI hardly changes")
  } else {
    paste(quoted(names[1]), "fits as well and is simpler")
  }
}

# Can each case's likelihood be had?
has_cases <- function(models) {
  all(vapply(models, function(x) !is.null(x$parts$source) && x$about$options$estimator %in% c("ml", "robust") && x$about$status == "ok", TRUE))
}

# Pairs that are not nested, by the likelihoods of single cases.
vuong_table <- function(models, tests, limits) {
  pairs <- tests[tests$nested == "no", ]
  do.call(rbind, lapply(seq_len(nrow(pairs)), function(i) {
    two <- unlist(pairs[i, c("stricter", "freer")])
    test <- vuong_of(models[two])
    says <- if (is.na(test$p)) "the two cannot be told apart" else if (!meets(test$p, limits, "test_p")) "neither is nearer to the answers" else
      paste(quoted(two[if (test$statistic > 0) 1 else 2]), "is nearer to the answers")
    plain_table(model = two[[1]], rival = two[[2]], difference = test$difference, statistic = test$statistic, p.value = test$p, says = says)
  }))
}

# Vuong's test (1989) of two models by the likelihoods of single cases.
vuong_of <- function(two) {
  likelihoods <- lapply(two, function(x) {
    answers <- source_rows(survey_behind(x), rownames(x$parts$observed))
    answers <- answers[if (x$about$options$missing == "fiml") rowSums(!is.na(answers)) > 0 else stats::complete.cases(answers), , drop = FALSE]
    mean <- if (core_has_means(x$parts$cells)) x$parts$implied_mean else colMeans(answers)
    -core_case_likelihood(answers, x$parts$implied, mean)$minus_two / 2
  })
  core_vuong(likelihoods[[1]], likelihoods[[2]], vapply(two, function(x) -x$parts$figures$df, 0))
}

comparison_notes <- function(models) {
  bad <- names(models)[vapply(models, function(x) x$about$status != "ok", TRUE)]
  if (length(bad) > 0) note("not_usable", message_of("rivals_not_usable", many = length(bad), models = bad), bad, rank = 1L)
}
