# Every judged figure with its formula and range, beside its bound and source from the limits: the
# glossary of the documentation.

figure_formulas <- c(
  inter_item_r = "Pearson correlation of two keyed items|-1 to 1",
  item_rest_r = "correlation of an item with the sum of the other items of its subscale|-1 to 1",
  item_rest_r_keyed = "the same of a test item scored 0 and 1|-1 to 1",
  alpha = "k / (k - 1) x (1 - sum of item variances / variance of the sum)|below 0 to 1",
  omega = "(sum of loadings)^2 / ((sum of loadings)^2 + sum of unique variances), one factor|0 to 1",
  alpha_excess = "alpha, from above|below 0 to 1",
  kmo = "sum of r^2 / (sum of r^2 + sum of partial r^2)|0 to 1",
  bartlett_p = "p of -(n - 1 - (2 p + 5) / 6) ln |R| on p (p - 1) / 2 df|0 to 1",
  loading = "weight of the factor in the item, pattern matrix|about -1 to 1",
  loading_gap = "largest less second largest loading in size|0 to 1",
  condition = "largest over smallest eigenvalue of R|1 and up",
  smallest_eigenvalue = "smallest eigenvalue of R|0 and up",
  small_partials = "share of partial correlations below .10 in size|0 to 1",
  multiple_r = "1 - 1 / diagonal of the inverse of R|0 to 1",
  duplicate_r = "correlation of two items|-1 to 1",
  cases_per_item = "n / items|0 and up",
  cases_per_parameter = "n / free parameters|0 and up",
  congruence = "sum of products of loadings over the root of their sums of squares|-1 to 1",
  determinacy = "root of the diagonal of S' inv(R) S, S the structure matrix|0 to 1",
  standard_loading = "loading x sd of factor / sd of item|-1 to 1",
  composite_reliability = "variance of the sum due to the factor / variance of the sum, as implied|0 to 1",
  ave = "mean squared standardised loading|0 to 1",
  htmt = "mean correlation between blocks / root of the product of mean correlations within|about 0 to 1",
  vif = "diagonal of the inverse of the correlations|1 and up",
  cfi = "1 - max(chi-square - df, 0) / max(baseline chi-square - its df, chi-square - df)|0 to 1",
  tli = "(baseline ratio - ratio) / (baseline ratio - 1), ratio = chi-square / df|about 0 to 1",
  rmsea = "root of max(chi-square - df, 0) / (df n), times the root of the number of groups|0 and up",
  srmr = "root mean square of residuals over the product of sds, diagonal included|0 and up",
  residual_r = "sample less implied correlation|-1 to 1",
  cfi_change = "CFI of a step less that of the last that held, fall|about -1 to 1",
  rmsea_change = "RMSEA of a step less that of the last that held, rise|about -1 to 1",
  skewness = "G1 = g1 x root of n (n - 1) / (n - 2)|any",
  kurtosis = "G2 = (n - 1) / ((n - 2) (n - 3)) x ((n + 1) g2 + 6)|any",
  difficulty_low = "share of people who are right|0 to 1",
  difficulty_high = "share of people who are right|0 to 1",
  option_margin = "share choosing a wrong option in the highest band less in the lowest|-1 to 1",
  dif_p = "p of the test given the score, adjusted over items|0 to 1",
  unanswered = "share of items a person left out|0 to 1",
  longest_run_share = "longest run of one answer / items|0 to 1",
  person_sd = "standard deviation of a person's answers as given|0 and up",
  even_odd = "correlation over subscales of a person's even and odd halves, stepped up|-1 to 1",
  contradiction = "share of opposite wordings answered alike|0 to 1",
  distance_p = "p of the Mahalanobis distance, chi-square with as many df as items|0 to 1",
  seconds_per_item = "seconds / items|0 and up",
  end_share = "share of answers at one end|0 to 1",
  missing_share = "share of missing answers|0 to 1"
)

# A row a figure: figure, formula, range, direction, bound, stricter bound, source.
figure_glossary <- function(limits = sw_limits()) {
  parts <- strsplit(figure_formulas[limits$figure], "|", fixed = TRUE)
  text <- function(x) vapply(x, function(one) if (is.na(one)) "" else bound_text(one), "")
  tibble::tibble(
    figure = limits$words, formula = unname(vapply(parts, `[`, "", 1)), range = unname(vapply(parts, `[`, "", 2)),
    direction = c(at_least = "higher is better", at_most = "lower is better", below = "lower is better")[limits$direction] |> unname(),
    bound = text(limits$bound), stricter = text(limits$better), source = limits$source
  )
}
