# People in groups: how alike they are, and covariances within and between groups.

# Of x (cases x items) with the cluster of each case, and the centre of each item, what an analysis of variance of every two items takes of each
# cluster, clusters x columns in the order in which they come: people, and of each pair of items (lower triangle with diagonal, by column) how
# many answered both, the sums of their answers' distances from `centre`, and of the products of these.
core_cluster_sums <- function(x, cluster, centre) {
  at <- which(lower.tri(diag(ncol(x)), diag = TRUE), arr.ind = TRUE)
  d <- x - rep(replace(centre, is.na(centre), 0), each = nrow(x))
  seen <- !is.na(d)
  d[!seen] <- 0
  one <- d[, at[, 1], drop = FALSE]
  other <- d[, at[, 2], drop = FALSE]
  both <- seen[, at[, 1], drop = FALSE] & seen[, at[, 2], drop = FALSE]
  rowsum(unname(cbind(rep(1, nrow(x)), both, one * both, other * both, one * other)), as.character(cluster), reorder = FALSE)
}

# Clusters of two parts of the people joined.
core_joined_sums <- function(a, b) if (is.null(a)) b else rowsum(rbind(a, b), c(rownames(a), rownames(b)), reorder = FALSE)

# Analysis of variance of every two items over the cases that answered both (one-way, unequal groups): list(within: pooled
# covariances, between: covariances of the groups' true means, (MS between - MS within) / n0, icc: of each item, size: mean number of
# people weighted by group size, groups, n). sums: of core_cluster_sums(). NA where no group has two people.
core_levels_of_sums <- function(sums, items) {
  pairs <- (ncol(sums) - 1) / 4
  part <- function(k) sums[, 1 + (k - 1) * pairs + seq_len(pairs), drop = FALSE]
  counts <- part(1)
  n <- colSums(counts)
  groups <- colSums(counts > 0)
  of_means <- part(2) * part(3) / pmax(counts, 1)
  within <- colSums(part(4) - of_means) / (n - groups)
  across <- (colSums(of_means) - colSums(part(2)) * colSums(part(3)) / n) / (groups - 1)
  between <- (across - within) / ((n - colSums(counts^2) / n) / (groups - 1))
  unknown <- groups < 2 | n <= groups
  square <- function(x) core_symmetric(replace(x, unknown, NA_real_), (sqrt(8 * pairs + 1) - 1) / 2, list(items, items))
  within <- square(within)
  between <- square(between)
  people <- sums[, 1]
  share <- pmax(diag(between), 0) / (pmax(diag(between), 0) + diag(within))
  list(within = within, between = between, icc = share, size = sum(people^2) / sum(people), groups = length(people), n = sum(people))
}

# By how much a mean of people in groups is less sure than one of as many people apart (Kish, 1965).
core_design_effect <- function(icc, size) 1 + (size - 1) * icc

# By how much unequal weights make a mean less sure (Kish, 1965): n over the effective number of people.
core_weight_effect <- function(weight) length(weight) * sum(weight^2) / sum(weight)^2

# Alpha and omega within and between groups (Geldhof, Preacher & Zyphur, 2014), NA where a matrix gives none.
core_level_coefficients <- function(levels, alpha = core_alpha) {
  known <- function(s) !anyNA(s) && all(diag(s) > 0)
  of <- function(s, n) {
    if (!known(s)) {
      return(c(alpha = NA_real_, omega = NA_real_))
    }
    found <- core_omega(s, n)
    c(alpha = alpha(s), omega = if (identical(found$status, "ok") && !found$bound) found$omega else NA_real_)
  }
  rbind(within = of(levels$within, levels$n - levels$groups), between = of(levels$between, levels$groups))
}

# The same left out of one part of the clusters after another, for their errors (the jackknife; Tukey, 1958): list(low, high), matrices as
# above, on the scale of log(1 - value). sums: of core_cluster_sums(); parts: number of parts the clusters are joined to.
core_level_intervals <- function(sums, estimate, level, parts, random) {
  parts <- min(parts, nrow(sums))
  part <- random$sample(rep_len(seq_len(parts), nrow(sums)))
  drawn <- vapply(seq_len(parts), function(g) {
    as.vector(core_level_coefficients(core_levels_of_sums(sums[part != g, , drop = FALSE], NULL), core_alpha_ratio))
  }, numeric(4))
  moved <- log(pmax(1 - drawn, 1e-6))
  error <- sqrt((parts - 1) / parts * rowSums((moved - rowMeans(moved))^2))
  width <- stats::qt((1 + level) / 2, parts - 1) * matrix(error, 2)
  list(low = 1 - (1 - estimate) * exp(width), high = 1 - (1 - estimate) * exp(-width))
}
