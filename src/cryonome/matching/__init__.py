"""An equation of state matched to lab tests: parameters, the fit, its pictures, and what it does where nothing was
measured."""
