# How each column of a table is written: its header and the kind of number.
# kinds: text, count, coefficient (three decimals, no leading zero), value (two
# decimals), number (three decimals), p, percent.

column_glossary <- local({
  rows <- c(
    "item|item|text", "scale|subscale|text", "factor|factor|text", "with|with|text",
    "direction|keyed|text", "n|n|count", "missing|missing|count", "items|items|count",
    "n_left_out|left out|count", "mean|mean|value", "sd|sd|value", "skewness|skewness|value",
    "kurtosis|kurtosis|value", "at_lowest|floor|percent", "at_highest|ceiling|percent",
    "unused|unused|text", "difficulty|share right|coefficient", "item_rest_r|item-rest r|coefficient",
    "flags|flags|text", "alpha|alpha|coefficient", "conf.low|from|interval", "conf.high|to|interval",
    "alpha_standardised|standardised|coefficient", "inter_item_r|mean r|coefficient",
    "verdict|verdict|text", "looks_unreversed|looks unreversed|text", "alpha_turned|if reversed|coefficient",
    "alpha_without|alpha without|coefficient", "change|change|coefficient", "rule|rule|text",
    "suggestion|factors|count", "looked_at|looked at|text", "number|number|count",
    "eigenvalue|eigenvalue|number", "random_mean|random mean|number", "random_percentile|random percentile|number",
    "share|share|percent", "communality|communality|coefficient", "uniqueness|uniqueness|coefficient",
    "belongs|belongs to|text", "sum_of_squares|sum of squares|number", "share_of_total|of total|percent",
    "share_of_common|of common|percent", "chi_square|chi-square|value", "df|df|count", "p.value|p|p",
    "rmsea|RMSEA|coefficient", "cfi|CFI|coefficient", "tli|TLI|coefficient", "srmr|SRMR|coefficient",
    "figure|figure|text", "value|value|number", "about|about|text", "bound|bound|text", "estimate|estimate|number",
    "std.error|std. error|number", "statistic|statistic|value", "standardised|standardised|coefficient",
    "r_squared|R squared|coefficient", "correlation|correlation|coefficient", "kind|kind|text", "first|of|text",
    "second|with|text", "score|score|text", "method|method|text", "needed|needed|count",
    "without|without|count", "lowest|lowest|value", "highest|highest|value", "recipe|recipe|text",
    "what|what|text", "source|source|text", "action|action|text", "advice|what to do|text", "free|free|text", "option|option|text",
    "label|label|text", "right|right|text", "skipped|skipped|count", "unseen|unseen|count",
    "share_missing|share missing|percent", "cases|cases|count", "pattern|missing together|text", "patterns|patterns|count",
    "skewness_se|s.e.|value", "kurtosis_se|s.e.|value", "skewness_simple|g1|value", "kurtosis_simple|g2|value",
    "item_total_r|item-total r|coefficient", "codebook|codebook|text", "points|points|text", "agrees|agrees|text", "mean_r|mean r|coefficient",
    "lowest_r|lowest r|coefficient",
    "negative|negative|count", "disagree|disagree|text", "band|band|count", "distance|distance|value",
    "flagged|flagged|count", "by|by|text", "index|index|text", "alpha_flagged|without flagged|coefficient",
    "longest_run|longest run|count",
    "unanswered|unanswered|percent", "person_sd|spread|value", "even_odd|even-odd r|coefficient", "contradiction|contradiction|coefficient",
    "distance_p|distance p|p", "seconds_per_item|s per item|value", "bands|bands|text",
    "group|group|text", "count|count|count", "weakest|weakest|percent", "strongest|strongest|percent",
    "coefficient|coefficient|text", "omega_low|omega from|coefficient",
    "omega_high|omega to|coefficient", "omega_hierarchical|hierarchical omega|coefficient", "omega_total|omega total|coefficient",
    "omega_group|group factors|coefficient", "explained_common|explained common variance|coefficient",
    "change_low|change from|coefficient", "change_high|change to|coefficient", "bias|bias|number", "general|general|coefficient",
    "complexity|complexity|value", "says|says|text",
    "second_factor|next|text", "loading|loading|coefficient", "second_loading|next loading|coefficient", "gap|gap|coefficient",
    "before_rotation|before rotation|number", "share_before|of total before|percent", "rmsr|RMSR|coefficient",
    "residual|residual|coefficient", "minimum|minimum|count", "starts|starts|count", "share_of_starts|of starts|percent",
    "rank|rank|count", "person|person|text", "up|up|count", "down|down|count",
    "within_error|within error|count", "pass|pass mark|value", "consistency|consistency|coefficient", "kappa|kappa|coefficient",
    "accuracy|accuracy|coefficient", "answered|answered|count", "working|working|text", "answer|answer|value", "counts_as|counts as|value",
    "how|how|text", "spread_loading|loadings, sd|number", "spread_intercept|intercepts, sd|number", "share_of_loss|of all difference|percent",
    "explained_loading|loadings explained|coefficient", "explained_intercept|intercepts explained|coefficient",
      "ave_excess|AVE less squared r|coefficient", "ave_excess_p|its p|p", "determinacy|determinacy|coefficient",
        "regression|regression|coefficient", "bartlett|Bartlett|coefficient",
    "tenberge|ten Berge|coefficient", "clear|clear|count", "crossing|crossing|count", "nowhere|nowhere|count", "thin|thin factors|count",
    "large_residuals|large residuals|count", "dropped|dropped|text", "reason|reason|text", "congruence|congruence|coefficient",
    "congruence_lowest|lowest|coefficient",
    "half|half|text", "chi_square_scaled|chi-square, scaled|value", "ratio|chi-square / df|number", "nfi|NFI|coefficient",
    "rfi|RFI|coefficient", "ifi|IFI|coefficient", "rni|RNI|coefficient", "gfi|GFI|coefficient", "agfi|AGFI|coefficient", "rmr|RMR|number",
    "ecvi|ECVI|number", "bic_adjusted|BIC, adjusted|value", "critical_n|critical n|number", "log_likelihood|log-likelihood|value",
    "baseline_chi_square|baseline chi-square|value", "rmsea_p_not_close|p of no close fit|p", "model|model|text",
    "aic_weight|AIC weight|coefficient", "bic_weight|BIC weight|coefficient",
    "stricter|stricter|text", "freer|freer|text", "nested|nested|text", "cfi_change|CFI change|coefficient",
    "rmsea_change|RMSEA change|coefficient", "composite_reliability|composite reliability|coefficient", "ave|AVE|coefficient",
    "verdict_ave|AVE verdict|text",
    "verdict_reliability|reliability verdict|text", "standard_change|standardised change|coefficient", "power|power|coefficient",
    "reading|reading|text", "implied|implied|coefficient", "matched|matched|text", "complete|complete|count",
    "common_variance|common variance|coefficient",
    "share_fair|fair or better|percent", "share_good|good|percent", "share_same|same factor|percent", "split|split|count",
    "sampling_adequacy|sampling adequacy|coefficient",
    "meaning|meaning|text", "nearest|nearest item|text", "factors|factors|count", "aic|AIC|value", "bic|BIC|value", "trouble|trouble|text",
    "common|common|number", "common_mean|common, mean|number", "common_percentile|common, percentile|number",
    "empirical_kaiser|empirical Kaiser|number", "squared|squared|number", "fourth|fourth power|number",
    "small_partials|share of small partial r|percent", "alpha_ordinal|ordinal alpha|coefficient",
    "omega_ordinal|ordinal omega|coefficient", "replicates|resamples|count", "omega|omega|coefficient", "omega_observed|omega observed|coefficient",
    "lambda1|lambda 1|coefficient", "lambda2|lambda 2|coefficient", "lambda4|lambda 4|coefficient", "lambda5|lambda 5|coefficient",
    "lambda6|lambda 6|coefficient", "glb|glb|coefficient", "odd_even_rulon|odd-even|coefficient",
    "odd_even_stepped|odd-even, stepped up|coefficient", "split_mean|mean split|coefficient", "split_worst|worst split|coefficient",
    "sem|sem|value", "reliable_change|reliable change|value", "inter_item_lowest|lowest r|coefficient",
    "inter_item_highest|highest r|coefficient", "rmsea_one_factor|RMSEA, one factor|coefficient", "second_eigenvalue|2nd eigenvalue|value",
    "sum_mean|mean of sum|value", "sum_sd|sd of sum|value", "sum_lowest|from|count", "sum_highest|to|count",
    "squared_multiple_r|smc|coefficient", "omega_without|omega without|coefficient", "sum_mean_without|mean without|value",
    "sum_sd_without|sd without|value", "ss|SS|value", "ms|MS|value", "reliability|reliability|coefficient", "from_score|from|count",
    "to_score|to|count", "df2|df 2|count", "target|target|coefficient", "items_needed|items needed|count", "kept|items kept|text",
    "test|test|text", "wave|wave|count", "p_adjusted|p adjusted|p",
    "effect|effect|value", "class|class|text", "favours|favours|text", "odds_ratio|odds ratio|value", "p_uniform|p uniform|p",
    "p_nonuniform|p non-uniform|p", "r2_change|R squared change|coefficient", "p_general|p any option|p", "row|row|count",
    "standardised_error|its error|coefficient", "of|of|text", "check|check|text", "case|case|text", "answers|answers|count",
    "minus_two|minus 2 log-likelihood|value", "cook|Cook's distance|number", "largest_change|largest change|coefficient",
    "null|RMSEA, null|coefficient", "alternative|alternative|coefficient", "true|true value|number", "mean_estimate|mean estimate|number",
    "error_ratio|error / spread|number", "coverage|coverage|coefficient", "converged|converged|percent", "rival|rival|text",
    "difference|difference|value", "p_bootstrap|p, bootstrap|p",
    "maximal_reliability|maximal reliability|coefficient", "msv|MSV|coefficient", "asv|ASV|coefficient", "told_apart|told apart|text",
      "htmt|HTMT|coefficient",
    "htmt_low|HTMT from|coefficient", "htmt_high|HTMT to|coefficient", "root_above|root of AVE above r|text", "where|where|text", "vif|VIF|value",
    "ave_without|AVE without|coefficient", "reliability_without|reliability without|coefficient", "dimensions|dimensions|count",
    "variable|variable|text", "expected|expected|text",
    "composite|composite|text", "mode|mode|text", "rho_a|rho A|coefficient", "redundancy|redundancy|coefficient", "weight|weight|coefficient",
    "loading_low|loading from|coefficient", "loading_high|loading to|coefficient", "from|composite|text", "to|leads to|text",
    "occasion|where|text", "against|against|text", "variance|variance|number", "df_difference|its df|count", "p_difference|p of change|p",
    "on_mean|on the mean|number",
    "step|step|count", "detail|detail|text", "wording|wording|text", "role|role|text"
  )
  cells <- strsplit(rows, "|", fixed = TRUE)
  tibble::tibble(
    column = vapply(cells, `[`, "", 1), header = vapply(cells, `[`, "", 2), kind = vapply(cells, `[`, "", 3)
  )
})

column_header <- function(name) {
  name <- sub("^(share|mean)_(band)_", "\\2_", name)
  found <- match(name, column_glossary$column)
  ifelse(is.na(found), gsub("_", " ", name), column_glossary$header[found])
}

# A column's kind. Ends of intervals are written as the figure before them in their table is:
# `before`, the names of the columns to the left. Columns that the glossary does not know (factors,
# items, subscales by name) are whole numbers, or all alike over their table: coefficients where none
# of them exceeds one in size, which `small` says, else numbers.
column_kind <- function(name, values, before = character(), small = all_small(list(values))) {
  if (!is.numeric(values)) {
    return("text")
  }
  if (grepl("^(share|mean)_band_", name)) {
    return(if (startsWith(name, "share")) "percent" else "value")
  }
  found <- glossary_kind(name)
  if (identical(found, "interval")) {
    of <- glossary_kind(before)
    of <- of[of %in% c("coefficient", "number", "value", "percent") & !before %in% c("std.error", "statistic", "standardised", "standardised_error", "df")]
    return(if (length(of) > 0) utils::tail(of, 1) else if (small) "coefficient" else "number")
  }
  if (is.na(found) || found == "text") {
    seen <- values[is.finite(values)]
    found <- if (length(seen) > 0 && all(seen == round(seen)) && any(abs(seen) > 1)) "count" else if (small) "coefficient" else "number"
  }
  found
}

glossary_kind <- function(name) column_glossary$kind[match(name, column_glossary$column)]

all_small <- function(columns) all(abs(as.numeric(unlist(columns))) <= 1, na.rm = TRUE)

# The columns of a table that the glossary does not know.
unknown_columns <- function(table) table[vapply(table, is.numeric, TRUE) & is.na(glossary_kind(names(table)))]
