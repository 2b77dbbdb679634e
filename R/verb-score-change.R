# How large the error of a change is, and how many changes error alone would show.

# Standard error of a change of each score, from the residual variances of the first and a later wave and what an item's residuals share between
# them: var = w'(T1 + T2 - 2C)w for the items' weights w in the score (Rogosa & Willett, 1983). A function(about, wave); NA where nothing but root
# two times the error of one wave (Jacobson & Truax, 1991) is known.
change_errors <- function(survey, found) {
  fits <- lapply(found$scales, function(items) wave_residuals(survey, items))
  function(about, wave) {
    fit <- fits[[about$scale]]
    if (is.null(fit) || !about$method %in% raw_methods || !wave %in% fit$waves[-1]) {
      return(NA_real_)
    }
    items <- found$scales[[about$scale]]
    w <- item_weights(about$method, item_spec(survey, items), found$weights[items])
    later <- match(wave, fit$waves)
    at <- c(seq_along(items), (later - 1) * length(items) + seq_along(items))
    sqrt(max(drop(c(-w, w) %*% fit$residual[at, at] %*% c(-w, w)), 0))
  }
}

# Residual covariances of a subscale's items, waves side by side, from one factor a wave with equal loadings and intercepts: list(waves, residual).
# NULL where that does not hold, or too few people came twice.
wave_residuals <- function(survey, items, least = 50) {
  if (length(items) < 3 || !gives_rows(survey, items) || sum(table(case_names(survey)) > 1) < least) {
    return(NULL)
  }
  found <- tryCatch(sw_invariance(survey, sw_structure(own = items), across = survey$wave, steps = c("metric", "scalar")),
    scalewort_error = function(e) NULL)
  held <- vapply(found$parts$fits, function(fit) step_holds(fit) && is.null(fit$blocked), TRUE)
  if (is.null(found) || !all(held)) {
    return(NULL)
  }
  fit <- found$parts$fits$scalar
  residuals <- fit$cells$part == core_parts[["residual"]]
  own <- fit$cells[residuals, ]
  out <- matrix(0, max(own$row), max(own$row))
  out[cbind(own$row, own$column)] <- core_cell_values(fit$cells, fit$theta)[residuals]
  list(waves = found$parts$labels$wave, residual = out + t(out) - diag(diag(out)))
}

# Of each score and later wave: how many changes lie beyond error, and how many would by error alone, with what chance gives (binomial); more:
# beyond that, over all rows together (Holm, 1979).
change_rates <- function(change, level) {
  if (is.null(change)) {
    return(NULL)
  }
  parts <- split(change, factor(paste(change$score, change$wave), unique(paste(change$score, change$wave))))
  out <- do.call(rbind, lapply(unname(parts), function(rows) {
    n <- sum(!is.na(rows$verdict))
    beyond <- sum(rows$verdict %in% c("up", "down"))
    plain_table(
      score = rows$score[1], wave = rows$wave[1], n = n, change = mean(rows$change, na.rm = TRUE), up = sum(rows$verdict %in% "up"),
      down = sum(rows$verdict %in% "down"), beyond = beyond, by_error = (1 - level) * n, by_error_low = stats::qbinom((1 - level) / 2, n, 1 - level),
      by_error_high = stats::qbinom((1 + level) / 2, n, 1 - level), p.value = stats::pbinom(beyond - 1, n, 1 - level, lower.tail = FALSE)
    )
  }))
  out$p_holm <- stats::p.adjust(out$p.value, "holm")
  out$more <- ifelse(out$p_holm < .05, "yes", "no")
  out
}

# Where the error of a change is taken from one wave alone.
change_error_note <- function(change) {
  alone <- unique(change$score[!is.na(change$se) & change$se_from == "one wave"])
  if (length(alone) > 0) note("change_error", message_of("change_error", scores = alone), alone)
}
