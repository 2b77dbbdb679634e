# Sentences for a paper about the number of factors, an exploration, and scores.

#' @export
sentences.sw_retention <- function(x) {
  found <- x$parts$agreement
  of <- function(rule) x$tables$rules$suggestion[match(rule, x$tables$rules$rule)]
  options <- x$about$options
  suspects <- x$tables$suspects
  held <- lapply(seq_len(NROW(suspects)), function(i) {
    if (suspects$why[i] != "pair") message_of("no_item_or_one") else
      message_of("only_the_pair", items = strsplit(suspects$items[i], " ", fixed = TRUE)[[1]])
  })
  Filter(Negate(is.null), list(
    message_of("number_judged", against = if (options$against == "mean") message_of("word_mean") else
      message_of("a_percentile", percentile = 100 * options$percentile), replicates = options$replicates,
      parallel = of("parallel analysis, common"), kaiser = of("empirical Kaiser"), n = x$about$n),
    if (length(held) > 0) message_of("last_not_counted", held = unique(held)),
    message_of(if (is.na(found$second)) "both_pointed_to" else "components_supported", factors = found$first)
  ))
}

#' @export
sentences.sw_exploration <- function(x) {
  if (x$about$status != "ok") {
    return(list(message_of("exploration_not_to_report")))
  }
  Filter(Negate(is.null), c(explored_sentences(x), list(explained_sentence(x)), loadings_sentences(x), list(factor_link_sentence(x))))
}

explored_sentences <- function(x) {
  options <- x$about$options
  staged <- x$about$missing %in% c("fiml", "imputed")
  left <- if (!staged) if (identical(x$about$missing, "pairwise")) message_of("clause_each_correlation") else
    if (isTRUE(x$about$n_left_out > 0)) message_of("clause_cases_left_out", cases = x$about$n_left_out)
  list(
    message_of("items_explored", items = nrow(x$parts$pattern), how = message_of(paste0("explored_by_", options$extraction)),
      correlation = options$correlation, rotation = if (options$rotation != "none") message_of("with_rotation", rotation = rotation_message(options)),
      n = x$about$n, left = left),
    if (staged) message_of(if (x$about$missing == "fiml") "correlations_by_likelihood" else "correlations_imputed")
  )
}

explained_sentence <- function(x) {
  fit <- x$tables$fit
  chi_square <- if (!is.na(fit$chi_square)) message_of("and_chi_square", df = fit$df, chi_square = fit$chi_square, p = fit$p.value,
    corrected = if (isTRUE(abs(fit$corrected / fit$chi_square - 1) > 1e-9)) message_of("corrected_for_n", chi_square = fit$corrected,
      p = fit$corrected_p), rmsea = fit$rmsea, cfi = fit$cfi, tli = fit$tli)
  message_of(if (is_components(x)) "components_explained" else "factors_explained", factors = x$about$options$factors,
    share = sum(x$tables$variance$share_of_total), chi_square = chi_square,
    srmr = if (!is.na(fit$srmr)) message_of("and_srmr", srmr = fit$srmr))
}

is_components <- function(x) x$about$options$extraction == "pca"

loadings_sentences <- function(x) {
  items <- x$tables$items
  bound <- limit(x$limits, "loading")$bound
  gap <- limit(x$limits, "loading_gap")$bound
  clear <- abs(items$loading) >= bound
  crossing <- clear & !is.na(items$gap) & items$gap < gap
  on <- message_of(if (is_components(x)) "word_component" else "word_factor")
  if (!any(clear)) {
    return(list(message_of("no_item_loaded", bound = bound, on = on)))
  }
  list(
    message_of("items_loaded", items = nrow(items), clear = sum(clear), bound = bound, on = on, loadings = abs(items$loading[clear])),
    if (any(!clear)) message_of("items_did_not", items = items$item[!clear]),
    if (any(crossing)) message_of("items_loaded_twice", items = items$item[crossing], on = on, gap = gap)
  )
}

factor_link_sentence <- function(x) {
  r <- x$parts$factor_correlations
  below <- r[lower.tri(r)]
  if (length(below) > 0 && any(abs(below) >= 1e-12)) message_of(if (length(below) == 1) "factors_correlated" else "correlations_were", r = below)
}

#' @export
sentences.sw_scores <- function(x) {
  about <- x$tables$scales[x$tables$scales$score %in% x$parts$found$about$base, ]
  known <- about[!is.na(about$reliability), ]
  how <- lapply(unique(about$method), function(method) message_of(paste0("scored_as_", method)))
  list(
    message_of("scores_computed", count = nrow(about), how = how, missing = missing_message(x),
      n = about$n, all = x$about$n),
    if (nrow(known) > 0) message_of("reliability_was", reliability = known$reliability, sem = known$sem)
  ) |> Filter(f = Negate(is.null))
}
