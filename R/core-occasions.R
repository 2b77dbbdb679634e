# The same structure on several occasions: groups of people, waves of answers, or both.

# base: cells of the structure on one occasion, with intercepts, scaled by variance (factor
# variances fixed at one). Cells of all occasions: columns group, wave, base (number of the
# base cell, NA for links between waves), kind. Items and factors of wave w follow those of
# wave w - 1. Every cell that is free in the base has a number of its own; factor means are
# fixed at zero. twins: residuals of an item covary over waves.
core_occasion_cells <- function(base, groups, waves, items, factors, twins = TRUE) {
  own <- seq_len(nrow(base))
  base <- rbind(base, list2DF(list(
    part = rep(core_parts[["mean"]], factors), row = seq_len(factors), column = rep(1L, factors), free = integer(factors), value = numeric(factors)
  )))
  place <- expand.grid(wave = seq_len(waves), group = seq_len(groups))
  blocks <- lapply(seq_len(nrow(place)), function(i) {
    shift <- place$wave[i] - 1L
    of_items <- base$part %in% core_parts[c("loading", "residual", "intercept")]
    out <- base
    out$row <- base$row + shift * ifelse(of_items, items, factors)
    out$column <- base$column + shift * ifelse(base$part == core_parts[["residual"]], items,
      ifelse(base$part %in% core_parts[c("intercept", "mean")], 0L,
      factors))
    out$group <- place$group[i]
    out$wave <- place$wave[i]
    out$base <- seq_len(nrow(base))
    out$kind <- cell_kinds(base)
    out
  })
  links <- if (waves > 1) lapply(seq_len(groups), function(g) wave_links(g, waves, items, factors, twins))
  cells <- do.call(rbind, c(blocks, links))
  # Numbers: those equal within the base stay equal within an occasion.
  key <- paste(cells$group, cells$wave, ifelse(is.na(cells$base), paste("link", cells$row, cells$column, cells$part), cells$free))
  free <- cells$free > 0
  cells$free <- ifelse(free, match(key, unique(key[free])), 0L)
  cells
}

cell_kinds <- function(cells) {
  part <- names(core_parts)[cells$part + 1L]
  ifelse(part %in% c("factor", "residual"), paste(part, ifelse(cells$row == cells$column, "variance", "covariance")), part)
}

# Covariances of factors, and of the residuals of the same item, between waves.
wave_links <- function(group, waves, items, factors, twins) {
  pairs <- utils::combn(seq_len(waves), 2, simplify = FALSE)
  do.call(rbind, lapply(pairs, function(two) {
    at <- expand.grid(first = seq_len(factors), second = seq_len(factors))
    link <- function(part, row, column, kind) {
      same <- function(x) rep_len(x, length(row))
      list2DF(list(
        part = same(core_parts[[part]]), row = row, column = column, free = same(1L), value = same(0), group = same(group), wave = same(two[2]),
        base = same(NA_integer_), kind = same(kind)
      ))
    }
    rbind(
      link("factor", (two[2] - 1L) * factors + at$second, (two[1] - 1L) * factors + at$first, "factor covariance"),
      if (twins) link("residual", (two[2] - 1L) * items + seq_len(items), (two[1] - 1L) * items + seq_len(items), "residual covariance")
    )
  }))
}

# Makes cells of the given kinds equal over occasions, but for those released (numbers of base
# cells). Where loadings are equal, factor variances are free but on the first occasion; where
# intercepts are, factor means are. Of factors above others the same follows from equal paths,
# and from equal levels: the means that the factors below have of their own.
core_equal_cells <- function(cells, kinds, released = integer()) {
  first <- cells$group == 1 & cells$wave == 1
  later <- !first & !is.na(cells$base)
  upper <- cells$row %in% cells$column[cells$kind == "path"]
  open <- function(kind, which) {
    rows <- later & cells$kind == kind & cells$free == 0 & which
    cells$free[rows] <<- max(cells$free) + seq_len(sum(rows))
  }
  if (!"factor variance" %in% kinds) {
    if ("loading" %in% kinds) open("factor variance", !upper)
    if ("path" %in% kinds) open("factor variance", upper)
  }
  if (!"mean" %in% kinds) {
    if ("intercept" %in% kinds && !"level" %in% kinds) open("mean", !upper)
    if ("level" %in% kinds) open("mean", upper)
  }
  same <- later & cells$kind %in% setdiff(kinds, c("factor variance", "mean")) & !cells$base %in% released & cells$free > 0
  home <- cells$free[first][match(cells$base[same], cells$base[first])]
  for (i in seq_along(home)) cells$free[cells$free == cells$free[same][i]] <- home[i]
  cells$free <- match(cells$free, c(0L, sort(unique(cells$free[cells$free > 0])))) - 1L
  cells
}

# Fits cells of several groups. groups: one list(n, s, mean) each with complete answers, and
# patterns, em beside it with incomplete ones. start: values of cells.
core_fit_occasions <- function(cells, groups, factors, start, incomplete) {
  n <- vapply(groups, `[[`, 0, "n")
  theta <- as.vector(tapply(start[cells$free > 0], factor(cells$free[cells$free > 0], seq_len(max(cells$free))), mean))
  if (incomplete) {
    return(core_fit_incomplete_groups(cells, lapply(groups, `[[`, "patterns"), lapply(groups, `[[`, "em"), factors, theta))
  }
  moments <- lapply(seq_along(groups), function(g) list(share = n[g] / sum(n), covariance = groups[[g]]$s, mean = groups[[g]]$mean))
  fit <- core_fit_groups(cells, moments, factors, theta)
  p <- ncol(groups[[1]]$s)
  saturated <- sum(n * (vapply(groups, function(g) as.numeric(determinant(g$s)$modulus), 0) + p + p * log(2 * pi)))
  fit$log_likelihood <- -(saturated + sum(n) * fit$discrepancy) / 2
  fit
}

# Robust test and errors of such a fit: list(scale, covariance); groups hold answers, or rows (a way through their people, see core_meats()), and may
# hold weight (of mean one) and cluster of their cases.
core_robust_occasions <- function(cells, fit, groups, factors, df, incomplete) {
  n <- sum(vapply(groups, `[[`, 0, "n"))
  p <- ncol(groups[[1]]$s)
  bread <- core_inverse_information(fit$expected_hessian, fit$held)
  meat <- if (is.null(groups[[1]]$rows)) {
    scores <- lapply(seq_along(groups), function(g) {
      answers <- groups[[g]]$answers
      weight <- occasion_weight(groups[[g]])
      # Complete answers: deviations from the sample's means and covariances, as in the saturated moments.
      if (!incomplete) answers <- sweep(answers, 2, groups[[g]]$mean - fit$implied_mean[[g]])
      own <- weight * kernel_case_gradients(cells, p, factors, answers, fit$theta, g)
      if (incomplete) own else own - tcrossprod(weight, colMeans(own))
    })
    core_meat(do.call(rbind, scores), unlist(lapply(groups, `[[`, "cluster")))
  } else {
    meat_over_groups(groups, n, function(x, g) kernel_case_gradients(cells, p, factors, x, fit$theta, g))
  }
  total <- sum(vapply(seq_along(groups), function(g) {
    one <- groups[[g]]
    if (incomplete) occasion_saturated(one) else
      core_saturated_trace(one$answers, one$s, fit$implied[[g]], occasion_weight(one), one$cluster, TRUE)
  }, 0))
  scale <- (total - sum(bread * meat) / 2) / df
  list(scale = if (df > 0 && isTRUE(scale > 0)) scale else if (df == 0) 1 else NA_real_, covariance = bread %*% meat %*% bread / n)
}

# How the scores of people spread who are gone through group by group; score(x, number of the group).
meat_over_groups <- function(groups, n, score) {
  now <- 0
  everybody <- function(each) {
    for (g in seq_along(groups)) {
      now <<- g
      groups[[g]]$rows(each)
    }
  }
  core_meats(everybody, n)$whole(function(x) score(x, now))
}

# The same for every structure: worked out once, where a group brings it.
occasion_saturated <- function(one) {
  if (!is.null(one$saturated)) one$saturated else
    core_incomplete_saturated(people_of(one), one$patterns, one$em, one$cluster, occasion_weight(one))
}

# The answers of a group, or the way through its people.
people_of <- function(one) if (is.null(one$rows)) one$answers else one$rows

# The same of moments that come with their covariance matrix (gamma of means and covariances) in each group: a second stage. Groups of people in
# clusters hold the influence of each cluster on their moments (sums: clusters x moments), since a cluster may have people in several groups.
core_staged_occasions <- function(cells, fit, groups, factors, df) {
  p <- ncol(groups[[1]]$s)
  jacobians <- kernel_structure_jacobian(cells, p, factors, fit$theta)
  n <- vapply(groups, `[[`, 0, "n")
  share <- n / sum(n)
  parts <- lapply(seq_along(groups), function(g) {
    w <- matrix(0, nrow(jacobians[[g]]), nrow(jacobians[[g]]))
    w[seq_len(p), seq_len(p)] <- chol2inv(chol(fit$implied[[g]]))
    w[-seq_len(p), -seq_len(p)] <- core_likelihood_weight(fit$implied[[g]])
    weighted <- kernel_product(w, jacobians[[g]])
    sums <- groups[[g]]$sums
    list(bread = share[g] * crossprod(jacobians[[g]], weighted), trace = sum(w * groups[[g]]$gamma),
      clusters = if (!is.null(sums)) kernel_product(sums, weighted) |> `rownames<-`(rownames(sums)),
      meat = if (is.null(sums)) share[g] * crossprod(weighted, kernel_product(groups[[g]]$gamma, weighted)))
  })
  total <- function(part) Reduce(`+`, lapply(parts, `[[`, part))
  bread <- core_inverse_information(total("bread"), fit$held)
  if (is.null(bread)) {
    return(list(scale = NA_real_, covariance = NULL))
  }
  clusters <- do.call(rbind, lapply(parts, `[[`, "clusters"))
  meat <- if (is.null(clusters)) total("meat") else core_meat_of_sums(rowsum(clusters, rownames(clusters)), sum(n))
  scale <- (total("trace") - sum(bread * meat)) / df
  list(scale = if (df > 0 && scale > 0) scale else if (df == 0) 1 else NA_real_, covariance = bread %*% meat %*% bread / sum(n))
}

# Chi-square of unrelated items, means free, over the groups; with its scale for robust.
core_occasion_baseline <- function(groups, incomplete, robust) {
  own <- lapply(groups, function(one) {
    out <- if (incomplete) core_incomplete_baseline(one$answers, core_pattern_value(one$patterns, one$em$covariance, one$em$mean),
      occasion_weight(one), one$patterns) else
      core_baseline(one$s, one$n)
    if (robust) {
      out$scale <- if (!is.null(one$gamma)) {
        staged_baseline_scale(one)
      } else if (incomplete) {
        (occasion_saturated(one) - baseline_trace(people_of(one), one$patterns, one$cluster, occasion_weight(one))) / out$df
      } else {
        core_baseline_scale(one$answers, one$s, one$weight, one$cluster)
      }
    }
    out
  })
  df <- vapply(own, `[[`, 0, "df")
  list(
    chi_square = sum(vapply(own, `[[`, 0, "chi_square")), df = sum(df),
    scale = if (robust) sum(df * vapply(own, `[[`, 0, "scale")) / sum(df)
  )
}

# Of the covariances alone, the means being free.
staged_baseline_scale <- function(one) {
  p <- ncol(one$s)
  apart <- diag(p)[lower.tri(diag(p), diag = TRUE)] > 0
  alone <- diag(length(apart))[, apart, drop = FALSE]
  core_stage_scale(alone, diag(diag(one$s)), one$gamma[-seq_len(p), -seq_len(p)], p * (p - 1) / 2)
}

occasion_weight <- function(one) if (is.null(one$weight)) rep(1, NROW(one$answers)) else one$weight

# Score test of letting single cells go their own way: `cells` with equal numbers, `rows` the
# cells asked about. Index, expected change of the cell.
core_release_scores <- function(cells, fit, groups, factors, rows, incomplete) {
  n <- vapply(groups, `[[`, 0, "n")
  apart <- cells
  q <- max(cells$free)
  apart$free[rows] <- q + seq_along(rows)
  theta <- c(fit$theta, fit$theta[cells$free[rows]])
  # A parameter all of whose cells were asked about keeps a number no cell has.
  at <- if (incomplete) {
    kernel_evaluate_incomplete(apart, ncol(groups[[1]]$s), factors, lapply(groups, `[[`, "patterns"), theta, TRUE)
  } else {
    moments <- lapply(seq_along(groups), function(g) list(share = n[g] / sum(n), covariance = groups[[g]]$s, mean = groups[[g]]$mean))
    kernel_evaluate_structure(apart, ncol(groups[[1]]$s), factors, moments, theta)
  }
  hessian <- if (incomplete) at$observed_hessian else at$expected_hessian
  join <- rbind(diag(q), outer(cells$free[rows], seq_len(q), `==`) * 1)
  inner <- t(join) %*% hessian %*% join
  solved <- core_inverse_information(inner)
  if (is.null(solved)) {
    return(list(index = rep(NA_real_, length(rows)), change = rep(NA_real_, length(rows))))
  }
  own <- q + seq_along(rows)
  across <- t(join) %*% hessian[, own, drop = FALSE]
  curvature <- diag(hessian)[own] - colSums(across * (solved %*% across))
  curvature <- ifelse(curvature > 1e-8 * diag(hessian)[own], curvature, NA)
  slope <- at$gradient[own]
  list(index = sum(n) / 2 * slope^2 / curvature, change = -slope / curvature)
}

# How far an item's expected answer differs between the first occasion and another, over the
# people of the other (Nye & Drasgow, 2011): mean signed difference in answer units, and its
# root mean square over the item's pooled sd.
core_item_difference <- function(intercept, loading, mean, variance, sd) {
  signed <- intercept + loading * mean
  list(signed = signed, size = sqrt(intercept^2 + 2 * intercept * loading * mean + loading^2 * (variance + mean^2)) / sd)
}
