# Coefficient alpha (Cronbach, 1951) and its companions, from a covariance matrix.

# k / (k - 1) * (1 - sum of item variances / variance of the total); NA for
# fewer than two items, a total that does not vary, or covariances so large beside the variances that no answers have them, which would give
# more than 1.
core_alpha <- function(covariance) {
  alpha <- core_alpha_ratio(covariance)
  if (isTRUE(alpha > 1 + 1e-9)) NA_real_ else alpha
}

core_alpha_ratio <- function(covariance) {
  k <- ncol(covariance)
  total <- sum(covariance)
  if (k < 2 || is.na(total) || total <= 0) NA_real_ else k / (k - 1) * (1 - sum(diag(covariance)) / total)
}

# Alpha of the items after each is brought to variance one.
core_standardised_alpha <- function(covariance) core_alpha(core_correlation(covariance))

# Alpha of the others, for each item in turn; NA with fewer than three items.
core_alpha_without <- function(covariance) {
  k <- ncol(covariance)
  if (k < 3) {
    return(rep(NA_real_, k))
  }
  variance <- diag(covariance)
  total <- sum(covariance) - 2 * rowSums(covariance) + variance
  alpha <- (k - 1) / (k - 2) * (1 - (sum(variance) - variance) / total)
  alpha[total <= 0 | alpha > 1 + 1e-9] <- NA_real_
  unname(alpha)
}

# Feldt's (1965) interval: (1 - alpha) / (1 - estimate) follows F with
# n - 1 and (n - 1)(k - 1) degrees of freedom.
core_feldt_interval <- function(alpha, n, k, level = 0.95) {
  if (is.na(alpha) || n < 2 || k < 2) {
    return(c(NA_real_, NA_real_))
  }
  tail <- (1 - level) / 2
  1 - (1 - alpha) * stats::qf(c(1 - tail, tail), n - 1, (n - 1) * (k - 1))
}

# Mean, least and largest correlation between different items.
core_inter_item_r <- function(covariance) {
  r <- core_correlation(covariance)
  between <- r[lower.tri(r)]
  if (length(between) == 0 || anyNA(between)) {
    return(c(mean = NA_real_, lowest = NA_real_, highest = NA_real_))
  }
  c(mean = mean(between), lowest = min(between), highest = max(between))
}

# Bonett's (2002) interval of alpha: ln(1 - alpha) is about normal with variance
# 2k / ((k - 1)(n - 2)).
core_bonett_interval <- function(alpha, n, k, level = .95) {
  if (is.na(alpha) || n < 3 || k < 2) {
    return(c(NA_real_, NA_real_))
  }
  width <- core_normal_edge(level) * sqrt(2 * k / ((k - 1) * (n - 2)))
  1 - exp(log(1 - alpha) + c(width, -width))
}

# Standard error of alpha for answers of any distribution, from the influence of single cases (Yuan, Guarnaccia & Hayslip,
# 2003; Maydeu-Olivares, Coffman & Hartmann, 2007). answers: complete, cases x items.
core_alpha_error <- function(answers) {
  k <- ncol(answers)
  n <- nrow(answers)
  d <- sweep(answers, 2, colMeans(answers))
  of_items <- rowSums(d^2)
  of_sum <- rowSums(d)^2
  own <- mean(of_items)
  whole <- mean(of_sum)
  influence <- k / (k - 1) * (own * (of_sum - whole) / whole^2 - (of_items - own) / whole)
  sqrt(mean(influence^2) / n)
}

# The same from gamma, n times the covariance matrix of the covariances with divisor n (lower triangle with diagonal, by column). s: with divisor
# n - 1.
core_alpha_error_of <- function(s, gamma, n) {
  s <- s * (n - 1) / n
  k <- ncol(s)
  own <- sum(diag(s))
  whole <- sum(s)
  at <- which(lower.tri(s, diag = TRUE), arr.ind = TRUE)
  item <- at[, 1] == at[, 2]
  slope <- k / (k - 1) * (own / whole^2 * ifelse(item, 1, 2) - item / whole)
  sqrt(sum(slope * (gamma %*% slope)) / n)
}

# Interval of a reliability from its standard error, on the scale of log(1 - value), with the t distribution.
core_reliability_interval <- function(value, error, n, level, df = n - 1) {
  if (is.na(value) || is.na(error) || value >= 1) {
    return(c(NA_real_, NA_real_))
  }
  width <- stats::qt((1 + level) / 2, min(df, n - 1)) * error / (1 - value)
  1 - (1 - value) * exp(c(width, -width))
}
