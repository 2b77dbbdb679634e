# Aligned means of groups, from the configural step.

alignment_tables <- function(fit, plan, basis) {
  check_alignable(fit, plan, basis)
  found <- lapply(seq_along(plan$factors), function(k) align_factor(fit, plan, basis, k))
  list(aligned = do.call(rbind, lapply(found, `[[`, "aligned")), alignment = do.call(rbind, lapply(found, `[[`, "items")))
}

check_alignable <- function(fit, plan, basis) {
  if (any(plan$cells$kind == "path")) stop_structure(message_of("e_means_aligned_structures"))
  loads <- plan$base$row[plan$base$part == core_parts[["loading"]]]
  if (anyDuplicated(loads) > 0) stop_structure(message_of("e_means_aligned_structures_each"))
  if (basis$waves > 1 || basis$ordered) stop_input(message_of("e_means_aligned_over"), hint = message_of("e_leave_across_out"))
  if (!fit$believed) stop_numeric(message_of("e_structure_could_not"), faults = fit$problems)
}

align_factor <- function(fit, plan, basis, k) {
  cells <- fit$cells
  value <- core_cell_values(cells, fit$theta)
  rows <- plan$base$row[plan$base$part == core_parts[["loading"]] & plan$base$column == k]
  cell_of <- function(kind) {
   vapply(rows, function(i) {
      at <- which(cells$kind == kind & cells$row == i & (kind == "intercept" | cells$column == k))
      at[order(cells$group[at])]
    }, integer(basis$groups))
 }
  loads <- cell_of("loading")
  levels <- cell_of("intercept")
  put <- function(at) matrix(value[at], basis$groups)
  n <- vapply(basis$samples, `[[`, 0, "n")
  found <- core_align(put(loads), put(levels), n)
  free <- cells$free[c(loads, levels)]
  error <- sqrt(diag(core_align_covariance(found$par, put(loads), put(levels), n, fit$covariance[free, free])))[seq_len(basis$groups - 1)]
  width <- core_normal_edge(.95) * c(0, error)
  agrees <- function(raw, predicted) max(0, 1 - stats::var(raw - predicted) / stats::var(raw))
  mean_l <- colMeans(found$loading)
  mean_v <- colMeans(found$intercept)
  list(
    aligned = plain_table(
      factor = plan$factors[k], occasion = basis$labels$label, n = n, mean = found$mean, std.error = c(NA, error), conf.low = replace(found$mean -
        width, 1, NA), conf.high = replace(found$mean + width, 1, NA), sd = found$sd, rank = rank(-found$mean, ties.method = "min")
    ),
    items = plain_table(
      factor = plan$factors[k], item = plan$items[rows], spread_loading = apply(found$loading, 2, stats::sd),
      spread_intercept = apply(found$intercept, 2, stats::sd), share_of_loss = rowSums(found$loss) / found$value,
      explained_loading = vapply(seq_along(rows), function(j) agrees(value[loads[, j]], found$sd * mean_l[j]), 0),
      explained_intercept = vapply(seq_along(rows), function(j) agrees(value[levels[, j]], mean_v[j] + found$mean * mean_l[j]), 0)
    )
  )
}
