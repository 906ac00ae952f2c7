"""
All computation of Plumbbob: arrays and small frozen values in, values out.

Nothing here opens a file, reads the clock or knows a window. Conventions, everywhere in the core:

- SI units; the unit is in the name where a number enters or leaves (`depth_m`, `speed_mps`, `level_db`).
- Depth is metres below the water surface, positive down. Range is metres from the transducer.
- Headings, courses and bearings are degrees clockwise from true north.
- Time is float64 seconds since 1970-01-01 UTC.
- Latitude comes before longitude; arrays of pings are (pings, samples).
- NaN means "not known"; it is never silently replaced by a number.
"""
