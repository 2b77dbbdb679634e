# A model of careful people for these very items, and how much likelier than by it a person's answers are at random or in straight lines.
# Latent normal answers are cut at the sample's shares; a person's answers are scored by the mean of the latent variable within each option.

# The model: list(values, log_share, score, cuts, spread, r, precision, log_det, pages, scale). r: latent correlations of the answers as given;
# shares: a list of named shares, one an item, whose names are the options in order; pages: lists of columns; scale: how far careful people differ
# in how extreme they answer (standard deviation of the log).
core_careful_model <- function(r, shares, pages, scale = 0) {
  cuts <- lapply(shares, function(p) stats::qnorm(pmin(cumsum(p), 1)))
  score <- Map(function(p, upper) -diff(c(0, stats::dnorm(upper))) / p, shares, cuts)
  spread <- unlist(Map(function(p, z) sum(p * z^2), shares, score))
  root <- chol(r * outer(spread, spread) + diag(spread - spread^2))
  list(values = lapply(shares, function(p) as.numeric(names(p))), log_share = lapply(shares, log), score = score, cuts = cuts, spread = spread, r = r,
    precision = chol2inv(root), log_det = 2 * sum(log(diag(root))), pages = pages, scale = scale)
}

# Correlations that one factor a page implies, halfway to those of the sample: what chance does to single pairs weighs half.
core_half_implied <- function(r, pages) {
  loading <- rep(0, ncol(r))
  home <- rep(0, ncol(r))
  for (k in seq_along(pages)) {
    own <- pages[[k]]
    home[own] <- k
    if (length(own) > 2) loading[own] <- core_extract(r[own, own], 1, "minres", most_starts = 1L)$loadings[, 1]
    if (length(own) == 2) loading[own] <- sqrt(abs(r[own[1], own[2]])) * c(1, sign(r[own[1], own[2]]))
  }
  loading <- pmin(pmax(loading, -.95), .95)
  links <- diag(1, length(pages))
  for (a in seq_along(pages)) for (b in seq_len(a - 1)) {
    weight <- outer(loading[pages[[a]]], loading[pages[[b]]])
    links[a, b] <- links[b, a] <- min(max(sum(weight * r[pages[[a]], pages[[b]]]) / max(sum(weight^2), 1e-8), -1), 1)
  }
  implied <- outer(loading, loading) * links[pmax(home, 1), pmax(home, 1)]
  diag(implied) <- 1
  out <- (r + implied) / 2
  if (core_definiteness(out) < 1e-4) core_smooth(out, 1e-3) else out
}

# Options of answers as numbers, 1 for the lowest; the nearest where an answer is none of them.
core_option_numbers <- function(x, values) {
  for (j in seq_len(ncol(x))) {
    middle <- utils::head(values[[j]], -1) + diff(values[[j]]) / 2
    x[, j] <- findInterval(x[, j], middle) + 1
  }
  x
}

# Of people by the options that they chose: distance from the centre (squared, of the scores), log likelihood, and the log of how much likelier the
# answers are at random and in straight lines: one line all along or a line a page, with slips.
core_careless_ratios <- function(options, model) {
  z <- core_option_scores(options, model)
  likely <- rowSums(looked_up(options, model$log_share))
  distance <- rowSums((z %*% model$precision) * z)
  careful <- likely - .5 * model$log_det + .5 * sum(log(model$spread)) - .5 * (distance - rowSums(z^2))
  lines <- lapply(model$pages, function(own) core_line_chances(options[, own, drop = FALSE]))
  straight <- pmax(core_line_chances(options[, sort(unlist(model$pages)), drop = FALSE]), Reduce(`+`, lines))
  cbind(distance = distance, random = -sum(log(lengths(model$values))) - careful, straight = straight - careful)
}

looked_up <- function(options, table) {
  found <- vapply(seq_along(table), function(j) unname(table[[j]])[options[, j]], numeric(nrow(options)))
  matrix(found, nrow(options))
}

core_option_scores <- function(options, model) looked_up(options, model$score)

# Log chance of a row of options given by somebody who keeps to one of them, any as likely: that one with .92, its neighbours with .04 each.
core_line_chances <- function(options) {
  chances <- lapply(seq_len(max(options)), function(k) {
    off <- abs(options - k)
    same <- rowSums(off == 0)
    next_to <- rowSums(off == 1)
    same * log(.92) + next_to * log(.04) + (ncol(options) - same - next_to) * log(.0005)
  })
  top <- do.call(pmax, chances)
  top + log(Reduce(`+`, lapply(chances, function(one) exp(one - top))) / length(chances))
}

# Options of `count` careful people by the model. random: list(normal).
core_careful_options <- function(model, count, random) {
  x <- matrix(random$normal(count * ncol(model$r)), count) %*% chol(model$r)
  if (model$scale == 0) {
    return(vapply(seq_along(model$cuts), function(j) findInterval(x[, j], utils::head(model$cuts[[j]], -1)) + 1, numeric(count)))
  }
  x <- x * exp(model$scale * random$normal(count))
  # The shares of the options stay as they are.
  vapply(seq_along(model$cuts), function(j) {
    upper <- utils::head(cumsum(exp(model$log_share[[j]])), -1)
    findInterval(x[, j], stats::quantile(x[, j], pmin(upper, 1), names = FALSE)) + 1
  }, numeric(count))
}

# How far people differ in how extreme they answer: the scale at which the spread of the log distances is that of the sample.
# draws: a function of a model's people, the same random numbers each time.
core_personal_scale <- function(distance, model, drawn) {
  width <- function(d) {
    q <- stats::quantile(log(pmax(d, 1e-8)), c(.1, .25, .75, .9), names = FALSE)
    q[3] - q[2] + q[4] - q[1]
  }
  scales <- seq(0, .4, .1)
  widths <- vapply(scales, function(scale) {
    model$scale <- scale
    width(core_careless_ratios(drawn(model), model)[, "distance"])
  }, 0)
  widths <- cummax(widths)
  own <- width(distance)
  if (own <= widths[1]) 0 else if (own >= widths[5]) .4 else stats::approx(widths, scales, own, ties = "ordered")$y
}

# Share of drawn careful people with as large a ratio; beyond their 99% quantile an exponential tail.
core_tail_p <- function(value, drawn) {
  edge <- stats::quantile(drawn, .99, names = FALSE)
  excess <- mean(drawn[drawn > edge] - edge)
  within <- (length(drawn) - findInterval(value, sort(drawn), left.open = TRUE)) / length(drawn)
  ifelse(value > edge & excess > 0, .01 * exp(-(value - edge) / excess), pmax(within, 1 / length(drawn)))
}

# The largest of these p that Benjamini and Hochberg (1995) accept at a level; where there is none, what the first had to be below.
core_discovery_edge <- function(p, level) {
  p <- sort(p)
  steps <- level * seq_along(p) / length(p)
  accepted <- which(p <= steps)
  steps[max(accepted, 1)]
}

# Options of unanswered items, drawn from what a person's other answers let expect: a careful person stays one. options: NA where nothing was
# answered. random: list(normal), asked in the order of people.
core_filled_options <- function(options, model, random) {
  gaps <- is.na(options)
  rows <- which(rowSums(gaps) > 0)
  if (length(rows) == 0) {
    return(options)
  }
  z <- core_option_scores(options, model)
  covariance <- model$r * outer(model$spread, model$spread) + diag(model$spread - model$spread^2)
  for (i in rows) {
    open <- which(gaps[i, ])
    known <- which(!gaps[i, ])
    within <- chol2inv(chol(model$precision[open, open, drop = FALSE]))
    expected <- if (length(known) == 0) rep(0, length(open)) else
      -drop(within %*% (model$precision[open, known, drop = FALSE] %*% z[i, known]))
    v <- model$spread[open]
    left <- model$r[open, open, drop = FALSE] - (covariance[open, open, drop = FALSE] - within) / outer(v, v)
    latent <- expected / v + drop(random$normal(length(open)) %*% chol(left + diag(1e-6, length(open))))
    options[i, open] <- vapply(seq_along(open), function(k) findInterval(latent[k], utils::head(model$cuts[[open[k]]], -1)) + 1, 0)
  }
  options
}
