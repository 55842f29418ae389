#!/usr/bin/env python3
"""Writes the figures that the sun is tested against: heights and directions from astropy, hours of rising,
setting and civil twilight from ephem. Needs `pip install astropy ephem`.

    python3 scripts/sun-figures.py > crates/caltrin-core/tests/sun.csv
"""
import datetime
import random

import astropy.units as u
import ephem
from astropy.coordinates import AltAz, EarthLocation, get_sun
from astropy.time import Time
from astropy.utils import iers

iers.conf.auto_download = False
iers.conf.iers_degraded_accuracy = "warn"

random.seed(41)
print("# what,year,date,latitude,longitude,hour,height,azimuth (degrees, without refraction; hours in UT)")
for _ in range(400):
    year, date = random.randint(1951, 2049), random.randint(1, 365)
    latitude, longitude = random.randint(-60, 68), random.randint(-180, 180)
    hour = round(random.uniform(0, 24), 4)
    moment = datetime.datetime(year, 1, 1) + datetime.timedelta(days=date - 1, hours=hour)
    place = EarthLocation(lat=latitude * u.deg, lon=longitude * u.deg, height=0 * u.m)
    time = Time(moment, scale="utc")
    time.delta_ut1_utc = 0
    seen = get_sun(time).transform_to(AltAz(obstime=time, location=place, pressure=0 * u.hPa))
    print(f"at,{year},{date},{latitude},{longitude},{hour},{seen.alt.deg:.4f},{seen.az.deg:.4f}")

print("# what,year,date,latitude,rise,set,dawn,dusk (hours of the place's own mean time; - where there is none)")
for latitude in range(-60, 69, 8):
    for date in range(5, 366, 24):
        year = 2026
        observer = ephem.Observer()
        observer.lat, observer.lon, observer.pressure = str(latitude), "0", 0
        noon = ephem.Date(datetime.datetime(year, 1, 1, 12) + datetime.timedelta(days=date - 1))
        found = []
        for horizon, side in (("-0.833", -1), ("-0.833", 1), ("-6", -1), ("-6", 1)):
            observer.horizon, observer.date = horizon, noon
            try:
                turn = observer.previous_rising if side < 0 else observer.next_setting
                when = turn(ephem.Sun(), use_center=True)
                hours = 12 + (when - noon) * 24
                found.append(f"{hours:.4f}" if 0 <= hours < 24 else "-")
            except (ephem.AlwaysUpError, ephem.NeverUpError):
                found.append("-")
        print(f"day,{year},{date},{latitude},{','.join(found)}")
