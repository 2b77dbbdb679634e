# Standard errors and intervals of an exploration's loadings and factor correlations.

# list(table, status): status "ok", or why there are none.
loading_estimates <- function(ordered, rotated, extracted, moments, settings, source, pairs) {
  wanted <- if (is.null(settings$errors)) "analytic" else settings$errors
  found <- switch(wanted,
    none = list(status = "not_wanted"),
    analytic = analytic_errors(ordered, rotated, extracted, moments, settings, pairs),
    bootstrap = bootstrap_errors(ordered, moments, settings, source)
  )
  if (found$status != "ok") {
    return(list(status = found$status, asked = !is.null(settings$errors), table = NULL))
  }
  list(status = "ok", asked = TRUE, table = estimates_table(ordered, found, settings$level))
}

analytic_errors <- function(ordered, rotated, extracted, moments, settings, pairs) {
  if (moments$correlation == "spearman" || extracted$status != "ok" || rotated$status != "ok") {
    return(list(status = if (moments$correlation == "spearman") "no_formula" else "not_converged"))
  }
  if (moments$correlation == "polychoric" && is.null(pairs)) {
    return(list(status = "no_formula"))
  }
  errors_by <- function(pairs) {
    core_loading_errors(moments$n, ordered$loadings, ordered$correlations, extracted$uniqueness, settings$extraction, rotated, pairs)
  }
  out <- errors_by(pairs$covariance)
  if (is.null(pairs$pooled) || out$status != "ok") {
    return(out)
  }
  within <- errors_by(pairs$pooled$within)
  df_of <- function(part) core_pooled_df(out[[part]], within[[part]], pairs$pooled$m, moments$n - 1)
  c(out, list(loading_df = df_of("loadings"), correlation_df = df_of("correlations")))
}

# What is known of the covariances of the correlations beyond those of normal answers without gaps: list(covariance: of the
# correlations (lower triangle by column), whole: with rows of zero for the diagonal, test: "uls" for polychoric ones, "ml" in two stages);
# NULL where nothing is, or where some correlation has no variance.
correlation_spread <- function(moments, source) {
  if (moments$correlation == "polychoric") {
    return(polychoric_spread(moments, source))
  }
  moments <- restored_gamma(moments, source)
  if (is.null(moments$gamma)) {
    return(NULL)
  }
  whole_by <- function(gamma) core_correlation_gamma(gamma, moments$covariance, moments$n) / moments$n
  whole <- whole_by(moments$gamma)
  off <- lower.tri(moments$covariance)[lower.tri(moments$covariance, diag = TRUE)]
  pooled <- if (!is.null(moments$pooled)) list(m = moments$pooled$m, within = whole_by(moments$pooled$within)[off, off])
  list(covariance = whole[off, off], whole = whole, test = "ml", pooled = pooled)
}

# The covariance matrix of moments that a result does not keep, from where they came.
restored_gamma <- function(moments, source) {
  kept <- !is.null(moments$gamma) || moments$correlation != "pearson"
  if (kept || (has_answers(source$x) && moments$missing == "listwise" && is.null(source$x$weight) && is.null(source$x$cluster))) {
    return(moments)
  }
  again <- tryCatch(as_moments(source$x, colnames(moments$covariance), source$missing, source$correlation, source$smooth, source$also, spread = TRUE),
    scalewort_error = function(e) NULL)
  moments[c("gamma", "pooled")] <- list(again$gamma, again$pooled)
  moments
}

without_gamma <- function(moments) {
  moments[c("gamma", "pooled")] <- list(NULL, NULL)
  moments
}

polychoric_spread <- function(moments, source) {
  if (!goes_by_rows(source$x)) {
    return(NULL)
  }
  found <- polychoric_pairs(source$x, colnames(moments$covariance), moments$missing, covariance = TRUE)
  thresholds <- sum(lengths(found$thresholds))
  of_pairs <- function(covariance) covariance[-seq_len(thresholds), -seq_len(thresholds)] / moments$n
  out <- of_pairs(found$covariance)
  pooled <- if (!is.null(found$pooled)) list(m = found$pooled$m, within = of_pairs(found$pooled$within))
  if (any(!is.finite(diag(out))) || any(diag(out) <= 0)) NULL else list(covariance = out, test = "uls", pooled = pooled)
}

# Spread over resampled cases, each solution turned and matched to this one.
bootstrap_errors <- function(ordered, moments, settings, source) {
  if (!has_answers(source$x)) {
    stop_input(message_of("e_errors_bootstrap_needs"), hint = message_of("e_give_survey_use"))
  }
  answers <- complete_answers(source$x, colnames(moments$covariance), "errors")
  m <- ncol(ordered$loadings)
  again <- function(r) aligned_solution(r, m, settings, ordered$loadings)
  drawn <- resampled_correlations(answers, moments$correlation, settings$replicates, settings$seed, again)
  fine <- Filter(Negate(is.null), drawn)
  if (length(fine) < 20) {
    return(list(status = "not_converged"))
  }
  # A list of matrices as one array, also where they are single numbers.
  stacked <- function(part) array(unlist(lapply(fine, `[[`, part)), c(dim(as.matrix(fine[[1]][[part]])), length(fine)))
  spread <- function(part) apply(stacked(part), 1:2, stats::sd)
  ends <- function(part) apply(stacked(part), 1:2, core_percentile_interval, level = settings$level)
  list(
    status = "ok", loadings = spread("loadings"), correlations = spread("correlations"), loading_ends = ends("loadings"),
    correlation_ends = ends("correlations"), replicates = length(fine)
  )
}

# The solution of one correlation matrix, turned and matched to `reference`; NULL where
# it does not converge.
aligned_solution <- function(r, m, settings, reference) {
  fit <- tryCatch(core_extract(r, m, settings$extraction, most_starts = 1L), error = function(e) NULL)
  if (is.null(fit) || fit$status != "ok") {
    return(NULL)
  }
  start <- if (settings$rotation == "none") fit$loadings else core_procrustes(fit$loadings, reference)
  rotated <- rotate_extracted(start, settings, starts = 1L)
  if (rotated$status != "ok") {
    return(NULL)
  }
  core_matched(reference, rotated$loadings, rotated$correlations)
}

resampled_correlations <- function(answers, correlation, replicates, seed, work) {
  if (correlation == "pearson") {
    starts <- seq(0, replicates - 1, by = 250)
    return(unlist(over_series(starts, "Resamples", function(first) {
      lapply(core_replicate_moments(answers, first, min(250, replicates - first), seed), function(m) work(core_correlation(m$covariance)))
    }), recursive = FALSE))
  }
  over_series(seq_len(replicates) - 1L, "Resample", function(i) {
    rows <- answers[rep(seq_len(nrow(answers)), core_draw_counts(nrow(answers), seed, i)), , drop = FALSE]
    r <- if (correlation == "spearman") core_rank_moments(rows, TRUE)$covariance else core_polychoric(named_columns(rows))$r
    if (is.null(r) || anyNA(r)) NULL else work(r)
  })
}

# A row per loading, then one per pair of factors.
estimates_table <- function(ordered, found, level) {
  pattern <- ordered$loadings
  rows <- function(kind, first, second, estimate, error, ends, df) {
    width <- stats::qt((1 + level) / 2, if (is.null(df)) Inf else as.vector(df)) * error
    if (is.null(ends)) ends <- rbind(estimate - width, estimate + width)
    plain_table(kind = kind, item = first, factor = second, estimate = estimate, std.error = error, conf.low = ends[1, ], conf.high = ends[2, ])
  }
  flat <- function(ends, cells) if (!is.null(ends)) rbind(ends[1, , ][cells], ends[2, , ][cells])
  loadings <- rows("loading", rep(rownames(pattern), ncol(pattern)), rep(colnames(pattern), each = nrow(pattern)), as.vector(pattern),
    as.vector(found$loadings), flat(found$loading_ends, seq_along(pattern)), found$loading_df)
  below <- which(lower.tri(ordered$correlations))
  error <- found$correlations[below]
  if (length(below) == 0 || all(error == 0)) {
    return(loadings)
  }
  at <- arrayInd(below, dim(ordered$correlations))
  rbind(loadings, rows("factor correlation", colnames(pattern)[at[, 2]], colnames(pattern)[at[, 1]], ordered$correlations[below], error,
    flat(found$correlation_ends, below), found$correlation_df[below]))
}
