# Explorations with errors, numbers of factors, validity, careless answers and reliability of questionnaires as they are. Sourced by
# bench/run.R, which makes answers, core, unit, ratio and report.

many_items <- function(n, items, factors) {
  set.seed(6)
  population <- kronecker(diag(factors), matrix(.7, items / factors, 1))
  x <- matrix(rnorm(n * factors), n) %*% chol(matrix(.3, factors, factors) + diag(.7, factors)) %*% t(population) +
    matrix(rnorm(n * items, 0, sqrt(.51)), n)
  colnames(x) <- paste0("i", seq_len(items))
  x
}
in_five <- function(x) {
  codes <- as.data.frame(apply(x, 2, function(v) findInterval(v, c(-1.5, -.5, .5, 1.5)) + 1))
  function(factors) {
    sw_survey(codes, data.frame(item = names(codes), scale = rep(paste0("s", seq_len(factors)), each = ncol(codes) / factors), lowest = 1,
      highest = 5))
  }
}
x_80 <- many_items(500, 80, 8)
r_80 <- cor(x_80)
unit_80 <- function() eigen(r_80, symmetric = TRUE)
moments_80 <- sw_moments(x_80)
report("exploration of 80 items, 8 factors, with errors", "one eigen() of 80 x 80",
  ratio(function() sw_explore(moments_80, 8), unit_80, rounds = 3, times = c(1, 50)), 500)
survey_80 <- in_five(x_80)(8)
report("how many factors, 80 items, 500 people", "one eigen() of 80 x 80",
  ratio(function() sw_retention(survey_80), unit_80, rounds = 3, times = c(1, 50)), 1000)
survey_60 <- in_five(many_items(500, 60, 6))(6)
report("validity of 60 items on six factors", against,
  ratio(function() sw_validity(survey_60), unit, rounds = 3, times = c(1, 50)), 1250)
survey_careless <- in_five(many_items(1e5, 20, 4))(4)
report("careless answering, 100,000 x 20", against, ratio(function() sw_answering(survey_careless), unit, rounds = 1, times = c(1, 50)), 1250)
survey_thousand <- in_five(many_items(1000, 50, 5))(5)
report("reliability of five subscales, 1,000 x 50", against,
  ratio(function() sw_reliability(survey_thousand), unit, rounds = 3, times = c(1, 50)), 190)
