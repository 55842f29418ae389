                double sum = 0.0, count = 0.0;
                Lightbooks.BOOK.Notice notice;
                while (run.TakeNotice(out notice))
                {
                    count += 1.0;
                    sum += notice.Moment * count;
                    sum += notice.Lamp * 3.0;
                    sum += (double)notice.X;
                    sum += (double)notice.Y;
                    sum += (double)notice.Z;
                    sum += VALUE;
                    foreach (string text in new[] { notice.Name, notice.Text, notice.From })
                    {
                        foreach (byte value in System.Text.Encoding.UTF8.GetBytes(text)) sum += value;
                    }
                }
                output.Write((float)sum);
                output.Write((float)run.DroppedNotices());
